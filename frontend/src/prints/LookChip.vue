<script setup lang="ts">
// In the head of every page: the print that wants a look now.
import { computed } from 'vue'
import { useRunning } from './running'

const { data } = useRunning()
const due = computed(() => data.value?.prints.filter((one) => one.due_sentence) ?? [])
const first = computed(() => due.value[0])
</script>

<template>
  <span role="status" class="no-print">
    <RouterLink
      v-if="first"
      class="chip"
      :to="due.length > 1 ? '/prints' : `/prints/${first.id}`"
      :aria-label="`${first.printer}: ${first.due_sentence}`"
      :title="first.due_sentence"
    >
      <svg viewBox="0 0 20 14" width="20" height="14" aria-hidden="true" fill="none" stroke="currentColor">
        <path d="M1 7c5-7 13-7 18 0c-5 7-13 7-18 0z" stroke-width="1.8" />
        <circle cx="10" cy="7" r="2.4" fill="currentColor" />
      </svg>
      <span>{{ due.length > 1 ? `${due.length} prints` : first.printer }}</span>
    </RouterLink>
  </span>
</template>

<style scoped>
.chip {
  display: inline-flex;
  align-items: center;
  gap: 6px;
  max-width: 11rem;
  min-height: 36px;
  padding: 4px 12px;
  border-radius: 18px;
  background: var(--mild-ground);
  color: var(--mild);
  font-weight: 650;
  text-decoration: none;
}
.chip span {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
svg {
  flex: none;
}
</style>
