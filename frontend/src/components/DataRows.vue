<script setup lang="ts" generic="R extends object">
// Records in rows: sorted by a tap on a head, copied or saved as they are shown.
import { computed } from 'vue'
import { asCsv, asTabs, type Column, type TableProps } from './rows'
import { copyText } from '@/shell/copy'

const props = defineProps<TableProps<R>>()
defineSlots<Record<string, (given: { row: R }) => unknown>>()
const told = computed(() => props.columns.filter((one) => one.says))
const file = computed(
  () => `data:text/csv;charset=utf-8,${encodeURIComponent(asCsv(props.rows, told.value))}`,
)
const compare = (column: Column<R>) => (a: R, b: R) => {
  const [one, two] = [a, b].map((row) => (column.sorts ?? column.says!)(row))
  return typeof one === 'number' && typeof two === 'number'
    ? one - two
    : String(one).localeCompare(String(two), 'en', { numeric: true })
}
const copy = (): Promise<void> => copyText(asTabs(props.rows, told.value), 'Save the table instead.')
</script>

<template>
  <div class="table">
    <el-table
      :data="rows"
      :row-key="rowKey"
      :row-class-name="({ row }) => rowClass?.(row as R) ?? ''"
      :scrollbar-tabindex="still ? 0 : undefined"
      table-layout="auto"
      :empty-text="empty ?? 'Nothing yet.'"
    >
      <el-table-column
        v-for="column in columns"
        :key="column.key"
        :label="column.title"
        :align="column.right ? 'right' : 'left'"
        :sortable="!still && !!(column.says || column.sorts)"
        :sort-method="column.says || column.sorts ? compare(column) : undefined"
        :class-name="column.quiet ? 'quiet' : ''"
      >
        <template #default="{ row }">
          <slot :name="column.key" :row="row as R">{{ column.says?.(row as R) }}</slot>
        </template>
      </el-table-column>
    </el-table>
    <p v-if="!still && rows.length" class="row small no-print">
      <el-button text size="small" @click="copy">Copy</el-button>
      <a :href="file" :download="`${name}.csv`">Save as CSV</a>
    </p>
  </div>
</template>

<style scoped>
/* as wide as its room, also when that becomes narrower; what is wider scrolls in itself */
.table {
  min-width: 0;
  contain: inline-size;
  overflow-x: auto;
}
</style>
