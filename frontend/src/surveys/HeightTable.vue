<script setup lang="ts">
// The map for who listens, or wants the figures: what it says first, then every reading with its place.
import { computed, ref } from 'vue'
import type { Answer } from '@/api/ask'
import { later } from '@/components/later'
import type { Column } from '@/components/rows'
import { figure } from '@/shell/format'

const DataTable = later(() => import('./ReadingTable.vue'))
const props = defineProps<{
  map: Answer<'get', '/api/surveys/{survey_id}/map'>
  heights: number[]
  datum: number
  stage: string
}>()
const opened = ref(false)
export interface Row {
  i: number
  x: number
  y: number
  height: number
  says: string
}
const rows = computed<Row[]>(() =>
  props.heights.map((height, i) => ({
    i,
    x: props.map.x[i]!,
    y: props.map.y[i]!,
    height: height - props.datum,
    says: props.map.figures.open[i] ? 'only which way is known' : '',
  })),
)
const COLUMNS: Column<Row>[] = [
  { key: 'x', title: 'X, mm', says: (row) => figure(row.x, false, 0), sorts: (row) => row.x, right: true },
  { key: 'y', title: 'Y, mm', says: (row) => figure(row.y, false, 0), sorts: (row) => row.y, right: true },
  {
    key: 'height',
    title: 'Height, mm',
    says: (row) => figure(row.height, true, 3),
    sorts: (row) => row.height,
    right: true,
  },
  { key: 'says', title: '', says: (row) => row.says },
]
</script>

<template>
  <FoldPart title="The heights as a table" class="small" @toggle="opened = opened || $event">
    <p>
      <b>{{ map.figures.verdict.word }}.</b> {{ map.figures.verdict.sentence }} {{ stage }}:
    </p>
    <component :is="DataTable" v-if="opened" :rows="rows" :columns="COLUMNS" />
  </FoldPart>
</template>
