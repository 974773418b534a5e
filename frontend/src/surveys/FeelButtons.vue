<script setup lang="ts">
// How a strip feels, from far to close: five large buttons for a thumb.
import type { Schemas } from '@/api/client'
import { useFeels } from '@/api/shown'

type Feel = Schemas['FeelOut']['key']
withDefaults(defineProps<{ chosen?: Feel | null; legend?: string; busy?: boolean }>(), {
  chosen: null,
  legend: 'How does the strip feel?',
  busy: false,
})
defineEmits<{ feel: [feel: Feel] }>()
const { data: feels } = useFeels()
</script>

<template>
  <fieldset class="feels">
    <legend class="label">
      <TermHint term="feel">{{ legend }}</TermHint>
    </legend>
    <el-button
      v-for="one in feels?.feels"
      :key="one.key"
      class="tile"
      :class="{ edge: one.only_bound }"
      :aria-pressed="chosen === one.key"
      :disabled="busy"
      @click="$emit('feel', one.key)"
    >
      <span>{{ one.words }}</span><span class="says">{{ one.means }}</span>
    </el-button>
  </fieldset>
</template>

<style scoped>
.feels {
  display: grid;
  gap: 8px;
  border: 0;
  padding: 0;
  margin: 0;
  width: 100%;
}
button {
  font: inherit;
  font-size: 1.12rem;
  font-weight: 600;
  text-align: left;
  color: var(--ink);
  background: var(--el-fill-color-blank);
  border: 1px solid var(--line-2);
  border-radius: var(--round);
  min-height: 52px;
  padding: 6px 14px;
  cursor: pointer;
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 10px;
}
.edge {
  border-style: dashed;
}
.says {
  font-size: 0.85rem;
  font-weight: 400;
  color: var(--ink-2);
  text-align: right;
}
button[aria-pressed='true'] {
  border: 2px solid var(--accent);
  background: var(--sheet-2);
}
button:disabled {
  opacity: 0.6;
}
</style>
