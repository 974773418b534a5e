<script setup lang="ts" generic="R extends object">
// Records in rows: sorted by a tap on a head, copied or saved as they are shown.
import { computed } from 'vue'
import { asCsv, asTabs, type Column, type TableProps } from './rows'
import { copyText } from '@/shell/copy'

/** More columns than these find no room side by side on a phone: there each row stands as a short list. */
const MANY = 3

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
  <div class="table" :class="{ many: columns.filter((one) => one.title).length > MANY }">
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
          <span class="head small" :data-head="column.title" />
          <div class="said">
            <slot :name="column.key" :row="row as R">{{ column.says?.(row as R) }}</slot>
          </div>
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
  container-type: inline-size;
  overflow-x: auto;
}
/* drawn, not written: what is read, copied or looked for in a cell is its value alone */
.head {
  display: none;
}
.head::before {
  content: attr(data-head);
}
@container (max-width: 480px) {
  .many :deep(.el-scrollbar__view),
  .many :deep(table),
  .many :deep(tbody),
  .many :deep(tr),
  .many :deep(td) {
    display: block;
    width: 100% !important;
  }
  .many :deep(colgroup),
  .many :deep(thead),
  .many :deep(td:has(.said:empty)) {
    display: none;
  }
  .many :deep(td) {
    padding: 0;
    border: 0;
    text-align: left;
  }
  .many :deep(tr) {
    padding: 0.5rem 0;
    border-bottom: 1px solid var(--el-table-border-color);
  }
  .many :deep(.cell) {
    display: flex;
    gap: 1rem;
    justify-content: space-between;
    padding: 0.1rem 0;
  }
  .many :deep(td:first-child) {
    font-weight: 600;
  }
  .many :deep(td:not(:first-child)) .head {
    display: inline;
  }
  .many :deep(td:not(:first-child)) .said {
    text-align: right;
  }
}
</style>
