<script setup lang="ts" generic="R extends object">
// A table of records. The kit's is large (24 kB on the wire), so it comes when a table does.
import { later } from './later'
import type { TableProps } from './rows'

defineProps<TableProps<R>>()
defineSlots<Record<string, (given: { row: R }) => unknown>>()
const Rows = later(() => import('./DataRows.vue'))
</script>

<template>
  <component :is="Rows" v-bind="$props">
    <template v-for="name in Object.keys($slots)" :key="name" #[name]="{ row }"
      ><slot :name="name" :row="row as R"
    /></template>
  </component>
</template>
