<script setup lang="ts">
// What came of a print, as shape and word.
import type { Schemas } from '@/api/client'

defineProps<{ outcome: Schemas['PrintLine']['outcome']; word: string }>()
</script>

<template>
  <span class="badge" :class="outcome">
    <svg viewBox="0 0 16 16" width="16" height="16" aria-hidden="true" fill="none" stroke="currentColor">
      <path d="M1 14h14" stroke-width="1.8" />
      <path v-if="outcome === 'held'" d="M4 14V6h8v8" stroke-width="1.8" />
      <path v-else-if="outcome === 'let_go'" d="M4 11l3-8 7 3-3 8z" stroke-width="1.8" />
      <path v-else-if="outcome === 'too_well'" d="M4 14V8h8v6M8 6V1M6 3l2-2 2 2" stroke-width="1.8" />
      <circle v-else cx="8" cy="8" r="2" stroke-width="1.8" />
    </svg>
    {{ word }}
  </span>
</template>

<style scoped>
.badge {
  display: inline-flex;
  gap: 6px;
  align-items: center;
  padding: 2px 9px 2px 7px;
  border-radius: 4px;
  font-weight: 650;
  color: var(--mild);
  background: var(--mild-ground);
  white-space: nowrap;
}
.held {
  color: var(--good);
  background: var(--good-ground);
}
.let_go {
  color: var(--act);
  background: var(--act-ground);
}
svg {
  flex: none;
}
</style>
