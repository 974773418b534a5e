<script setup lang="ts">
// What the print that failed was made with: one line, and its fields when it is to be corrected.
import { ref, watch } from 'vue'
import type { Schemas } from '@/api/client'
import { figure, parseNumber } from '@/shell/format'

const props = defineProps<{
  setup: Schemas['SetupOut']
  locked?: boolean
  busy?: boolean
  trouble?: string
}>()
const emit = defineEmits<{ correct: [setup: Record<string, number | string | null>] }>()
const open = ref(false)
const typed = ref<Record<string, string>>({})
const shown = (value: number | string | null): string =>
  value === null ? '' : typeof value === 'number' ? figure(value, false, value % 1 ? 2 : 0) : value
function fill(): void {
  typed.value = Object.fromEntries(props.setup.settings.map((s) => [s.key, shown(s.value)]))
}
watch(() => props.setup, fill, { immediate: true })
function leave(): void {
  fill()
  open.value = false
}
/** Only what was touched is sent: what nobody touched stays unknown. */
function correct(): void {
  const changed: Record<string, number | string | null> = {}
  for (const s of props.setup.settings) {
    const text = (typed.value[s.key] ?? '').trim()
    if (text === shown(s.value)) continue
    changed[s.key] = text === '' ? null : s.choices.length ? text : parseNumber(text)
  }
  open.value = false
  if (Object.keys(changed).length) emit('correct', changed)
}
</script>

<template>
  <section class="sheet stack" aria-label="The print that failed">
    <div class="row spread">
      <h2>The print that failed</h2>
      <el-button v-if="!locked && !open" size="small" @click="open = true">Correct it</el-button>
    </div>
    <p>
      {{ setup.line || 'Nothing is known of it yet.' }}
      <span v-if="setup.source" class="quiet small">{{ setup.source }}</span>
    </p>
    <p v-if="!open" class="quiet small">What is not named here counts as unknown.</p>
    <div v-if="open" class="stack">
      <div class="fields">
        <template v-for="s in setup.settings" :key="s.key">
          <ChoiceField v-if="s.choices.length" :id="`setup-${s.key}`" v-model="typed[s.key]" :label="s.name">
            <el-option value="" label="Not known" />
            <el-option v-for="c in s.choices" :key="c" :value="c" :label="c" />
          </ChoiceField>
          <NumberField
            v-else-if="s.low !== null"
            :id="`setup-${s.key}`"
            :model-value="typed[s.key] ?? ''"
            :label="s.name"
            :unit="s.unit || undefined"
            placeholder="not known"
            @update:model-value="typed[s.key] = $event"
          />
        </template>
      </div>
      <div class="row">
        <el-button type="primary" :loading="busy" @click="correct">Keep</el-button
        ><el-button @click="leave">Leave as it was</el-button>
      </div>
    </div>
    <TroubleNote v-if="trouble">{{ trouble }}</TroubleNote>
  </section>
</template>

<style scoped>
.fields {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(100%, 140px), 1fr));
  align-items: end;
  gap: 8px 14px;
}
</style>
