<script setup lang="ts">
// Touches at one place, in their order: mean, limits, the one that stands out.
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import type { Column } from '@/components/rows'
import { figure } from '@/shell/format'
import ChartFrame from './ChartFrame.vue'
import { touches } from './readings'

const props = defineProps<{ heights: number[]; result: Schemas['RepeatabilityOut'] | null }>()
interface Row {
  i: number
  height: number
  aside: boolean
}
const rows = computed<Row[]>(() =>
  props.heights.map((height, i) => ({ i, height, aside: !!props.result?.aside.includes(i) })),
)
const says = computed(
  () => `${rows.value.length} touches: ${props.heights.map((h) => figure(h, true, 3)).join(', ')} mm`,
)
const COLUMNS: Column<Row>[] = [
  { key: 'touch', title: 'Touch', says: (row) => row.i + 1, right: true },
  {
    key: 'height',
    title: 'Reading, mm',
    says: (row) => figure(row.height, true, 3),
    sorts: (row) => row.height,
    right: true,
  },
  { key: 'aside', title: '', says: (row) => (row.aside ? 'stands out' : '') },
]
</script>

<template>
  <ChartFrame
    :says="says"
    :option="(look) => touches(look, heights, result)"
    :rows="rows"
    :columns="COLUMNS"
    row-key="i"
    name="touches"
    :height="230"
  />
</template>
