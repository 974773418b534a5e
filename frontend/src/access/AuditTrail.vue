<script setup lang="ts">
// What was done that one may want to know of later: pairings, roles, deletions, commands to machines, backups.
import { computed, ref } from 'vue'
import { access, useAudit } from '@/api/access'
import { sentence, type Schemas } from '@/api/client'
import { asDate, asTime } from '@/shell/format'
import { tell } from '@/shell/undo'

const { data } = useAudit()
const older = ref<Schemas['AuditLine'][]>([])
const next = ref<number | null | undefined>(undefined)
const lines = computed(() => [...(data.value?.lines ?? []), ...older.value])
const before = computed(() => (next.value === undefined ? data.value?.before : next.value))
async function more(): Promise<void> {
  try {
    const page = await access.olderAudit(before.value!)
    older.value.push(...page.lines)
    next.value = page.before
  } catch (e) {
    tell(sentence(e))
  }
}
</script>

<template>
  <section class="sheet stack" aria-label="Trail">
    <h2>What was done</h2>
    <p class="quiet small">
      Codes, devices, roles, deletions, commands to machines, backups. Nothing here can be changed.
    </p>
    <p v-if="!lines.length" class="quiet">Nothing yet.</p>
    <div v-else class="wide">
      <table class="plain-table">
        <thead>
          <tr>
            <th scope="col">When</th>
            <th scope="col">What</th>
            <th scope="col">From</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in lines" :key="one.id">
            <td class="number">{{ asDate(one.at) }} {{ asTime(one.at) }}</td>
            <td>{{ one.text }}</td>
            <td class="quiet">{{ one.device ?? (one.address || 'this computer') }}</td>
          </tr>
        </tbody>
      </table>
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
