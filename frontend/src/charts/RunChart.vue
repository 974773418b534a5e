<script setup lang="ts">
// A run of values from visit to visit with centre line and limits.
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import type { Column } from '@/components/rows'
import { asDate, count, figure, mm } from '@/shell/format'
import ChartFrame from './ChartFrame.vue'
import { run } from './visits'

const props = defineProps<{
  values: number[]
  dates: string[]
  chart: Schemas['ChartOut'] | null
  title: string
}>()
interface Row {
  i: number
  date: string
  value: number
  odd: boolean
}
const rows = computed<Row[]>(() =>
  props.values.map((value, i) => ({
    i,
    date: props.dates[i]!,
    value,
    odd: !!props.chart && (props.chart.outside.includes(i) || props.chart.jumps.includes(i)),
  })),
)
const says = computed(() => {
  const odd = rows.value.filter((row) => row.odd)
  const limits = props.chart ? `, mean ${mm(props.chart.mean)}, upper limit ${mm(props.chart.upper)}` : ''
  return (
    `${props.title}: ${count(rows.value.length, 'value')}, the newest ${mm(props.values.at(-1) ?? 0)}${limits}` +
    (odd.length ? `; out of the ordinary: ${odd.map((row) => asDate(row.date)).join(', ')}` : '')
  )
})
const COLUMNS: Column<Row>[] = [
  { key: 'day', title: 'Visit', says: (row) => asDate(row.date), sorts: (row) => row.date },
  { key: 'value', title: 'mm', says: (row) => figure(row.value), sorts: (row) => row.value, right: true },
  { key: 'odd', title: '', says: (row) => (row.odd ? 'out of the ordinary' : '') },
]
</script>

<template>
  <ChartFrame
    :says="says"
    :option="(look) => run(look, values, dates, chart)"
    :rows="rows"
    :columns="COLUMNS"
    row-key="i"
    :name="title.toLowerCase().replaceAll(' ', '-')"
    :height="220"
  />
</template>
