<script setup lang="ts">
// What happened in a case, and taking it back.
import { takeAway } from '@/api/change'
import type { Schemas } from '@/api/client'
import { asDay, asTime } from '@/shell/format'

defineProps<{ found: Schemas['CaseOut'] }>()
defineEmits<{ remove: [] }>()
const drop = (event: number) => takeAway('/api/case-events/{event_id}', { event_id: event }, 'Taken back.')
</script>

<template>
  <section class="sheet stack" aria-label="What happened">
    <h2>What happened</h2>
    <p v-if="!found.events.length" class="quiet">Nothing yet.</p>
    <ol class="plain-list">
      <li v-for="e in found.events" :key="e.id" class="row spread">
        <span
          ><span class="quiet small">{{ asDay(e.at) }}, {{ asTime(e.at) }}</span> {{ e.words
          }}<span v-if="e.note" class="quiet">: {{ e.note }}</span></span
        ><el-button
          v-if="!found.closed"
          text
          size="small"
          :aria-label="`Take back: ${e.words}`"
          @click="drop(e.id)"
          >Take back</el-button
        >
      </li>
    </ol>
    <p><el-button text size="small" @click="$emit('remove')">Delete this case</el-button></p>
  </section>
</template>

<style scoped>
.plain-list {
  list-style: none;
  margin: 0;
  padding: 0;
}
.plain-list li {
  padding: 5px 0;
  border-top: 1px solid var(--line);
}
</style>
