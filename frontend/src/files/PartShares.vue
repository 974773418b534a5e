<script setup lang="ts">
// How each part will stand: how much of its first layer is good, and how much of its foot touches the plate.
import { type Schemas } from '@/api/client'
import type { Column } from '@/components/rows'

defineProps<{ parts: Schemas['PartForecastOut'][] }>()
const percent = (share: number): string => `${Math.round(100 * share)} %`
const COLUMNS: Column<Schemas['PartForecastOut']>[] = [
  { key: 'name', title: 'Part', says: (p) => (p.first ? `${p.name}, least firm` : p.name) },
  { key: 'good', title: 'Good', says: (p) => percent(p.good), sorts: (p) => p.good, right: true },
  {
    key: 'touches',
    title: 'Touches, mm²',
    says: (p) => p.touches.toFixed(0),
    sorts: (p) => p.touches,
    right: true,
  },
]
</script>

<template>
  <DataTable
    v-if="parts.length"
    :rows="parts"
    :columns="COLUMNS"
    row-key="name"
    name="parts-forecast"
    still
  />
</template>
