<script setup lang="ts">
// Both uprights measured with calipers: how skew the cross beam is, and what to drive.
import { computed, ref } from 'vue'
import { sentence, type Schemas } from '@/api/client'
import { useDraft } from '@/shell/draft'
import { newKey, parseNumber } from '@/shell/format'
import BeamRow from './BeamRow.vue'
import { newest, useStoreTest, useTestPreview, type TestData } from './tests'

const props = defineProps<{ visit: Schemas['VisitOut'] }>()
const printer = computed(() => props.visit.printer)
const between = computed(() => printer.value.beam_span)
const { kept: draft } = useDraft(`beam-${props.visit.id}`, {
  key: newKey(),
  left: '',
  right: '',
  span: String(between.value),
})
const key = computed({ get: () => draft.value.key, set: (value) => (draft.value.key = value) })
const trouble = ref('')
const body = computed<TestData | null>(() => {
  const [left, right, span] = [draft.value.left, draft.value.right, draft.value.span].map(parseNumber)
  if (left == null || right == null || span == null) return null
  const two = printer.value.beam_screws === 2
  return {
    kind: 'beam',
    left,
    right,
    span,
    screws: two ? 2 : 1,
    lead: printer.value.beam_lead,
    screw_span: two ? between.value : null,
  }
})
const { data: preview, error } = useTestPreview(() => printer.value.id, body)
const result = computed(() => (body.value ? (preview.value?.result ?? null) : newest(props.visit, 'beam')))
const { sending } = useStoreTest(() => props.visit.id, key)
async function save(): Promise<void> {
  if (await sending.submit({ test: body.value! }))
    draft.value = { ...draft.value, key: newKey(), left: '', right: '' }
}
</script>

<template>
  <section class="sheet stack" aria-label="Cross beam">
    <h2><TermHint term="beam">Cross beam</TermHint></h2>
    <p class="small quiet">
      Calipers from the base to the beam at both uprights, held the same way. Motors off.
    </p>
    <el-form v-if="!visit.ended_at" class="three" @submit.prevent="body && save()">
      <NumberField id="beam-left" v-model="draft.left" label="Left" unit="mm" />
      <NumberField id="beam-right" v-model="draft.right" label="Right" unit="mm" />
      <NumberField id="beam-span" v-model="draft.span" label="Apart" unit="mm" />
      <el-button native-type="submit" type="primary" :disabled="!body || !!error" :loading="sending.busy"
        >Store</el-button
      >
    </el-form>
    <TroubleNote v-if="error && body">{{ sentence(error) }}</TroubleNote>
    <TroubleNote v-if="trouble">{{ trouble }}</TroubleNote>
    <p v-if="result" :class="result.level === 'skewed' ? 'trouble' : ''" aria-live="polite">
      {{ result.sentences[0] }}
    </p>
    <BeamRow v-if="printer.beam_screws === 2" :visit="visit" />
  </section>
</template>

<style scoped>
.three {
  display: grid;
  grid-template-columns: repeat(3, 1fr) auto;
  gap: 10px;
  align-items: end;
}
@media (max-width: 640px) {
  .three {
    grid-template-columns: 1fr 1fr;
  }
}
</style>
