<script setup lang="ts">
// What was done that one may want to know of later: pairings, roles, deletions, commands to machines, backups.
import { computed, ref } from 'vue'
import { ask, useApiQuery } from '@/api/ask'
import { sentence, type Schemas } from '@/api/client'
import { tell } from '@/shell/undo'
import { asDate, asTime } from '@/shell/format'
import type { Column } from '@/components/rows'

const { data } = useApiQuery('/api/audit')
const older = ref<Schemas['AuditLine'][]>([])
const next = ref<number | null | undefined>(undefined)
const lines = computed(() => [...(data.value?.lines ?? []), ...older.value])
const before = computed(() => (next.value === undefined ? data.value?.before : next.value))
async function more(): Promise<void> {
  try {
    const page = await ask('/api/audit', { before: before.value! })
    older.value.push(...page.lines)
    next.value = page.before
  } catch (e) {
    tell(sentence(e))
  }
}
const COLUMNS: Column<Schemas['AuditLine']>[] = [
  { key: 'at', title: 'When', says: (one) => `${asDate(one.at)} ${asTime(one.at)}`, sorts: (one) => one.at },
  { key: 'text', title: 'What', says: (one) => one.text },
  {
    key: 'from',
    title: 'From',
    says: (one) => one.device ?? (one.address || 'this computer'),
    quiet: true,
  },
]
</script>

<template>
  <section class="sheet stack" aria-label="Trail">
    <h2>What was done</h2>
    <p class="quiet small">
      Codes, devices, roles, deletions, commands to machines, backups. Nothing here can be changed.
    </p>
    <p v-if="!lines.length" class="quiet">Nothing yet.</p>
    <div v-else class="wide">
      <DataTable :rows="lines" :columns="COLUMNS" row-key="id" name="finchwort-trail" />
    </div>
    <p v-if="before"><el-button @click="more">Older lines</el-button></p>
  </section>
</template>

<style scoped>
.wide {
  overflow-x: auto;
}
@media (max-width: 640px) {
  thead {
    display: none;
  }
  tr {
    display: block;
    border-bottom: 1px solid var(--line);
    padding: 6px 0;
  }
  .plain-table td {
    display: block;
    border: 0;
    padding: 1px 0;
    overflow-wrap: anywhere;
  }
}
</style>
