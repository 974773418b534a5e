<script setup lang="ts">
// A straightedge across the plate, and across the bare carrier: which of the two is bent?
import { useStorage } from '@vueuse/core'
import { computed, ref } from 'vue'
import { sentence, type Schemas } from '@/api/client'
import LineSection from '@/drawing/LineSection.vue'
import { newest, useStoreTest, useTestPreview } from '@/probing/tests'
import TestList from '@/probing/TestList.vue'
import { newKey, parseNumber } from '@/shell/format'

const props = defineProps<{ visit: Schemas['VisitOut'] }>()
const fresh = () => {
  const width = props.visit.printer.width
  return { key: newKey(), what: 'plate' as 'plate' | 'carrier', rows: [0, 0.25, 0.5, 0.75, 1].map((share) => ({ at: String(Math.round(share * width)), gap: '' })) }
}
const draft = useStorage(`finchwort-line-${props.visit.id}`, fresh(), localStorage, { mergeDefaults: true })
const key = computed({ get: () => draft.value.key, set: (value) => (draft.value.key = value) })
const trouble = ref('')
const shownId = ref<number | null>(null)
const filled = computed(() => draft.value.rows.map((r) => [parseNumber(r.at), parseNumber(r.gap)] as const).filter((r): r is [number, number] => r[0] !== null && r[1] !== null))
const body = computed<Schemas['TestData'] | null>(() =>
  filled.value.length >= 3 ? { kind: 'line', what: draft.value.what, positions: filled.value.map((r) => r[0]), gaps: filled.value.map((r) => r[1]) } : null,
)
const { data: preview, error } = useTestPreview(() => props.visit.printer.id, body)
const stored = computed(() => props.visit.tests.find((t) => t.id === shownId.value) ?? newest(props.visit, 'line'))
const result = computed<Schemas['TestResult'] | null>(() => (body.value ? (preview.value?.result ?? null) : stored.value))
const { store, busy } = useStoreTest(() => props.visit.id)
async function save(): Promise<void> {
  trouble.value = ''
  try {
    const test = await store(key, body.value!)
    const what = draft.value.what === 'plate' ? 'carrier' : 'plate'
    draft.value = { ...fresh(), what }
    shownId.value = test.id
  } catch (e) {
    trouble.value = sentence(e)
  }
}
</script>

<template>
  <div class="worktable">
    <div class="stack">
      <section class="sheet stack" aria-label="The line">
        <template v-if="result?.line">
          <p class="say">{{ body ? '' : stored?.data.what === 'carrier' ? 'Bare carrier: ' : 'Plate: ' }}{{ result.sentences[0] }}</p>
          <p v-if="result.line.compared"><b>{{ result.line.compared }}</b></p>
          <LineSection :line="result.line" />
        </template>
        <template v-else>
          <h2>Is the plate bent, or what it lies on?</h2>
          <p>Lay a straightedge across and find the gap under it with a gauge in several places: once on the plate, once on the bare carrier.</p>
        </template>
      </section>
      <TestList :visit="visit" kind="line" :shown="body ? null : (stored?.id ?? null)" @show="shownId = $event" />
    </div>
    <form class="sheet stack" @submit.prevent="body && save()">
      <el-radio-group v-model="draft.what" aria-label="What the edge lies on">
        <el-radio-button value="plate">On the plate</el-radio-button><el-radio-button value="carrier">On the bare carrier</el-radio-button>
      </el-radio-group>
      <table class="plain-table">
        <thead><tr><th>Along the edge, mm</th><th>Gap under it, mm</th></tr></thead>
        <tbody>
          <tr v-for="(row, i) in draft.rows" :key="i">
            <td><input v-model="row.at" class="field" inputmode="decimal" :aria-label="`Place ${i + 1}`" /></td>
            <td><input v-model="row.gap" class="field" inputmode="decimal" :aria-label="`Gap ${i + 1}`" placeholder="0.00" /></td>
          </tr>
        </tbody>
      </table>
      <p class="row"><el-button size="small" @click="draft.rows.push({ at: '', gap: '' })">One more place</el-button></p>
      <p v-if="error && body" class="trouble" role="alert">{{ sentence(error) }}</p>
      <p v-if="trouble" class="trouble" role="alert">{{ trouble }}</p>
      <el-button type="primary" size="large" native-type="submit" :disabled="!body || !!error" :loading="busy">Store this line</el-button>
    </form>
  </div>
</template>

<style scoped>
.say {
  font-size: 1.12rem;
}
</style>
