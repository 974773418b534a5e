<script setup lang="ts">
// Entries of the logbook in their order.
import { takeAway } from '@/api/change'
import type { Schemas } from '@/api/client'
import { asTime } from '@/shell/format'
import { KINDS } from './kinds'

defineProps<{ entries: Schemas['EntryOut'][] }>()
const erase = (entry: Schemas['EntryOut']): Promise<void> =>
  takeAway('/api/logbook/{entry_id}', { entry_id: entry.id }, 'The note was deleted.')
</script>

<template>
  <el-timeline>
    <el-timeline-item
      v-for="entry in entries"
      :key="entry.id"
      :class="entry.kind"
      hide-timestamp
      :hollow="entry.kind !== 'verdict'"
    >
      <span class="time number quiet">{{ asTime(entry.at) }}</span>
      <span class="kind">{{ KINDS[entry.kind] }}</span>
      <div class="what">
        <p>
          <RouterLink v-if="entry.visit_id" :to="`/visits/${entry.visit_id}`">{{ entry.title }}</RouterLink>
          <template v-else>{{ entry.title }}</template>
          <span v-if="entry.printer" class="of quiet"> · {{ entry.printer }}</span>
          <span v-if="entry.device" class="of quiet"> · from {{ entry.device }}</span>
        </p>
        <p v-if="entry.detail" class="detail">{{ entry.detail }}</p>
      </div>
      <el-button
        v-if="entry.kind === 'note'"
        text
        size="small"
        :aria-label="`Delete the note: ${entry.title}`"
        @click="erase(entry)"
        >Delete</el-button
      >
    </el-timeline-item>
  </el-timeline>
</template>

<style scoped>
.el-timeline {
  padding: 10px 0 0 2px;
}
.el-timeline-item {
  padding-bottom: 10px;
}
.el-timeline-item :deep(.el-timeline-item__content) {
  display: grid;
  grid-template-columns: 48px 78px minmax(0, 1fr) auto;
  gap: 4px 10px;
  align-items: baseline;
  font-size: 1rem;
  color: var(--ink);
}
.kind {
  font-weight: 650;
  font-size: 0.92rem;
}
.survey .kind {
  color: var(--accent);
}
.turning .kind {
  color: var(--act);
}
.verdict .kind {
  color: var(--good);
}
.note .kind {
  color: var(--mild);
}
.detail {
  color: var(--ink-2);
  font-size: 0.95rem;
  white-space: pre-line;
}
.el-timeline-item.note {
  position: relative;
  top: 0;
}
@media (max-width: 800px) {
  .el-timeline-item :deep(.el-timeline-item__content) {
    grid-template-columns: 44px minmax(0, 1fr) auto;
  }
  .el-timeline-item .what {
    grid-column: 1 / -1;
    grid-row: 2;
  }
}
</style>
