<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { spreadOf } from '@/shell/format'

defineProps<{ rounds: Schemas['RoundOut'][]; round: number }>()
defineEmits<{ round: [index: number] }>()
</script>

<template>
  <div v-if="rounds.length > 1" class="row" role="group" aria-label="Rounds">
    <button
      v-for="(one, i) in rounds"
      :key="one.survey.id"
      type="button"
      :aria-pressed="i === round"
      @click="$emit('round', i)"
    >
      Round {{ i + 1 }} <span class="quiet small">{{ spreadOf(one.survey) }}</span>
    </button>
  </div>
</template>

<style scoped>
button {
  font: inherit;
  color: var(--ink);
  background: var(--sheet);
  border: 1px solid var(--line-2);
  border-radius: var(--round);
  padding: 4px 12px;
  min-height: 36px;
  cursor: pointer;
}
button[aria-pressed='true'] {
  border-color: var(--accent);
  box-shadow: inset 0 -3px 0 var(--accent);
  font-weight: 650;
}
</style>
