<script setup lang="ts">
// How the variation went from visit to visit, as found and as left.
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import type { Column } from '@/components/rows'
import { asDate, count, figure, mm } from '@/shell/format'
import ChartFrame from './ChartFrame.vue'
import { variation } from './visits'

type Visit = Schemas['VisitLine']
const props = defineProps<{ history: Visit[]; good: number }>()
const seen = computed(() => props.history.filter((one) => one.last_spread !== null))
const says = computed(() => {
  const [newest, oldest] = [seen.value[0]!, seen.value.at(-1)!]
  const before = newest === oldest ? '' : `, ${mm(oldest.last_spread!)} on ${asDate(oldest.started_at)}`
  return (
    `Variation at ${count(seen.value.length, 'visit')}: ${mm(newest.last_spread!)} as left on ` +
    `${asDate(newest.started_at)}${before}`
  )
})
const COLUMNS: Column<Visit>[] = [
  { key: 'day', title: 'Visit', says: (one) => asDate(one.started_at), sorts: (one) => one.started_at },
  {
    key: 'found',
    title: 'As found, mm',
    says: (one) => figure(one.first_spread!),
    sorts: (one) => one.first_spread!,
    right: true,
  },
  {
    key: 'left',
    title: 'As left, mm',
    says: (one) => figure(one.last_spread!),
    sorts: (one) => one.last_spread!,
    right: true,
  },
]
</script>

<template>
  <ChartFrame
    v-if="seen.length"
    :says="says"
    :option="(look) => variation(look, seen, good)"
    :rows="seen"
    :columns="COLUMNS"
    row-key="id"
    name="variation"
    :height="220"
  />
</template>
