<script setup lang="ts">
// What stands in the file: first layer, parts, time and plastic.
import { computed } from 'vue'
import { type Schemas } from '@/api/client'
import type { Column } from '@/components/rows'
import { count, mm } from '@/shell/format'
import { lasts } from './lasts'

const props = defineProps<{ file: Schemas['FileOut'] }>()
const facts = computed(() => {
  const f = props.file.facts
  const degrees = (value: number | null): string => (value === null ? 'not set' : `${value.toFixed(0)} °C`)
  return [
    ['First layer', `${mm(f.height)} high, lines ${mm(f.line_width)} wide`],
    ['Speed', f.speed === null ? 'none given' : `${f.speed.toFixed(0)} mm/s`],
    ['Bed, nozzle', `${degrees(f.bed)}, ${degrees(f.nozzle)}`],
    ['Part fan', f.fan ? `${f.fan.toFixed(0)} %` : 'off'],
    [
      'All of it',
      `${lasts(props.file.minutes)}, ${props.file.grams.toFixed(1)} g, ${count(f.layers, 'layer')}`,
    ],
    ...(props.file.cost === null ? [] : [['A failure costs', `up to ${props.file.cost.toFixed(2)}`]]),
  ]
})
const COLUMNS: Column<Schemas['FilePart']>[] = [
  { key: 'name', title: 'Part', says: (p) => p.name },
  { key: 'foot', title: 'Foot, mm²', says: (p) => p.foot.toFixed(0), sorts: (p) => p.foot, right: true },
  {
    key: 'height',
    title: 'Height, mm',
    says: (p) => p.height.toFixed(1),
    sorts: (p) => p.height,
    right: true,
  },
  {
    key: 'brim',
    title: 'Brim, mm',
    says: (p) => (p.brim ? p.brim.toFixed(0) : '–'),
    sorts: (p) => p.brim,
    right: true,
  },
]
</script>

<template>
  <section class="sheet stack" aria-label="What stands in the file">
    <h2>In the file</h2>
    <dl>
      <template v-for="[name, value] in facts" :key="name">
        <dt>{{ name }}</dt>
        <dd>{{ value }}</dd>
      </template>
    </dl>
    <DataTable
      v-if="file.parts.length"
      :rows="file.parts"
      :columns="COLUMNS"
      row-key="name"
      name="parts"
      :still="file.parts.length < 4"
    />
  </section>
</template>

<style scoped>
dl {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 4px 16px;
  margin: 0;
}
dt {
  color: var(--ink-2);
}
dd {
  margin: 0;
}
</style>
