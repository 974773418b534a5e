<script setup lang="ts">
// Readings in rows; in a file of its own, since a table of the kit is large and seldom opened.
import type { Column } from '@/components/rows'
import type { Row } from './HeightTable.vue'

defineProps<{ rows: Row[]; columns: Column<Row>[] }>()
</script>

<template>
  <DataTable :rows="rows" :columns="columns" row-key="i" name="heights" />
</template>
