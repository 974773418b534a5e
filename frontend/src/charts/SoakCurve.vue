<script setup lang="ts">
// How one place moved while it warmed through: readings, the curve through them, and where it goes.
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import type { Column } from '@/components/rows'
import { figure } from '@/shell/format'
import ChartFrame from './ChartFrame.vue'
import { soak } from './readings'

const props = defineProps<{ times: number[]; heights: number[]; result: Schemas['SoakOut'] | null }>()
interface Row {
  i: number
  minutes: number
  height: number
}
const rows = computed<Row[]>(() =>
  props.heights.map((height, i) => ({ i, minutes: (props.times[i]! - props.times[0]!) / 60, height })),
)
const says = computed(() => {
  const [first, last] = [rows.value[0], rows.value.at(-1)]
  return (
    `${rows.value.length} readings over ${(last?.minutes ?? 0).toFixed(1)} minutes, ` +
    `from ${figure(first?.height ?? 0, true, 3)} to ${figure(last?.height ?? 0, true, 3)} mm`
  )
})
const COLUMNS: Column<Row>[] = [
  {
    key: 'minutes',
    title: 'After, min',
    says: (row) => row.minutes.toFixed(1),
    sorts: (row) => row.minutes,
    right: true,
  },
  {
    key: 'height',
    title: 'Reading, mm',
    says: (row) => figure(row.height, true, 3),
    sorts: (row) => row.height,
    right: true,
  },
]
</script>

<template>
  <ChartFrame
    :says="says"
    :option="(look) => soak(look, times, heights, result)"
    :rows="rows"
    :columns="COLUMNS"
    row-key="i"
    name="warming-up"
  />
</template>
