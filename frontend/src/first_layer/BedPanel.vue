<script setup lang="ts">
// Discs all over the bed, judged by eye: tilt and offset apart.
import { useDraft } from '@/shell/draft'
import { computed, ref, watch } from 'vue'
import { useApiQuery } from '@/api/ask'
import { send, useSubmit } from '@/api/change'
import { sentence, type Schemas } from '@/api/client'
import BeadSection from '@/charts/BeadSection.vue'
import PrintMap from '@/bed/PrintMap.vue'
import { asTime, count } from '@/shell/format'
import TestPrintPanel from './TestPrintPanel.vue'

const props = defineProps<{ visit: Schemas['VisitOut'] }>()
const emit = defineEmits<{ found: [correction: Schemas['NewOffsetOut'] | null] }>()
type Step = Schemas['JudgedIn']['step']
const { data, error } = useApiQuery('/api/visits/{visit_id}/judged-bed', () => ({ visit_id: props.visit.id }))
watch(data, (d) => d && emit('found', d.correction && !d.turns.length ? d.correction : null), {
  immediate: true,
})
const brush = ref<Step>('good')
const { kept: judged } = useDraft<Record<string, Step>>(`bed-${props.visit.id}`, {})
const at = (d: { x: number; y: number; shift: number }): string => `${d.x} ${d.y} ${d.shift}`
const TINT: Record<Step, number> = {
  far_too_far: -1,
  too_far: -0.45,
  good: 0,
  too_close: 0.42,
  far_too_close: 1,
}
const LETTER: Record<Step, string> = {
  far_too_far: '−−',
  too_far: '−',
  good: '✓',
  too_close: '+',
  far_too_close: '++',
}
const words = computed(() => Object.fromEntries((data.value?.examples ?? []).map((e) => [e.step, e.words])))
const patches = computed(() =>
  (data.value?.discs ?? []).map((d) => {
    const step = judged.value[at(d)]
    return {
      ...d,
      size: 14,
      round: true,
      tint: step && TINT[step],
      letter: step && LETTER[step],
      label: `Disc ${d.number} ${d.name}, ${d.words}: ${step ? words.value[step] : 'not judged'}`,
    }
  }),
)
const done = computed(() => (data.value?.discs ?? []).filter((d) => judged.value[at(d)]))
const put = (number: number, step: Step): void => {
  const disc = data.value!.discs[number - 1]!
  if (judged.value[at(disc)] === step) delete judged.value[at(disc)]
  else judged.value[at(disc)] = step
}
const judge = useSubmit('post', '/api/visits/{visit_id}/judged-bed', () => ({ visit_id: props.visit.id }), {
  said: 'Judged.',
  undo: (made) => send('delete', '/api/trials/{trial_id}', { trial_id: made.id }),
})
async function record(): Promise<void> {
  if (done.value.length < 4)
    return void judge.lacks('Judge four discs or more; leave out those you did not print.')
  const patches = done.value.map((d) => ({ x: d.x, y: d.y, shift: d.shift, step: judged.value[at(d)]! }))
  if (await judge.submit({ patches })) judged.value = {}
}
const turned = useSubmit(
  'post',
  '/api/printers/{printer_id}/changes',
  () => ({ printer_id: props.visit.printer.id }),
  {
    said: 'Written down. Print the discs again: what was judged before counts no more.',
    undo: (made) => send('delete', '/api/changes/{change_id}', { change_id: made.id }),
  },
)
const haveTurned = () =>
  turned.submit({ what: 'knobs', visit_id: props.visit.id, note: 'as a judged bed said' })
</script>

<template>
  <!-- eslint-disable vue/no-restricted-html-elements --
  the whole picture is the button, which a radio of the kit cannot be -->
  <TroubleNote v-if="error">{{ sentence(error) }}</TroubleNote>
  <el-form v-else-if="data" class="stack" @submit.prevent="record">
    <section v-if="data.trials.length" class="stack result" aria-label="What the bed says">
      <p class="quiet small">
        {{ count(data.patches.length, 'patch', 'patches') }} judged, the newest at
        {{ asTime(data.trials.at(-1)!.made_at) }}.
      </p>
      <p v-for="(one, i) in data.sentences" :key="one" :class="{ say: i === 0 }">{{ one }}</p>
      <template v-if="data.turns.length">
        <ul>
          <li v-for="t in data.turns" :key="t">{{ t }}</li>
        </ul>
        <p>
          <el-button type="primary" :loading="turned.busy" @click="haveTurned">I turned them</el-button>
        </p>
      </template>
    </section>
    <p>
      Print {{ data.discs.length }} discs over the bed, at five heights in turn. Choose how a disc looks, then
      tap all that look so.
    </p>
    <div class="examples" role="radiogroup" aria-label="How it looks">
      <label v-for="(e, i) in data.examples" :key="e.step" :class="{ on: brush === e.step }"
        ><input
          v-model="brush"
          type="radio"
          name="brush"
          class="visually-hidden"
          :value="e.step"
        /><BeadSection
          :laid="e.laid"
          :spacing="data.spacing"
          :sliced="data.sliced"
          :label="`${e.words}: ${e.laid.words}`"
          small
        /><span
          ><b>{{ LETTER[e.step] }} {{ e.words }}</b
          ><br /><span class="quiet"
            >{{ e.laid.words }} <kbd>{{ i + 1 }}</kbd></span
          ></span
        ></label
      >
    </div>
    <PrintMap
      :bed="visit.printer.bed"
      :patches="patches"
      label="Discs over the bed"
      pickable
      @pick="put($event, brush)"
      @key="(n, k) => put(n, data!.examples[Number(k) - 1]!.step)"
    />
    <TroubleNote v-if="judge.trouble || turned.trouble">{{ judge.trouble || turned.trouble }}</TroubleNote>
    <div class="row spread">
      <el-button
        :type="data.turns.length ? undefined : 'primary'"
        native-type="submit"
        :loading="judge.busy"
        >{{ done.length ? `Judge ${count(done.length, 'disc')}` : 'Judge the discs' }}</el-button><el-button
        :disabled="!done.length"
        @click="judged = {}"
        >Clear</el-button
      >
    </div>
    <TestPrintPanel :visit="visit" kind="discs" />
  </el-form>
  <WaitBox v-else says="Planning the discs …" />
</template>

<style scoped>
.examples {
  display: grid;
  grid-template-columns: repeat(5, minmax(0, 1fr));
  gap: 8px;
  font-size: 0.8rem;
  line-height: 1.25;
}
.examples label {
  display: grid;
  align-content: start;
  padding: 6px;
  border: 1px solid var(--line-2);
  border-radius: var(--round);
  cursor: pointer;
}
.examples label.on {
  outline: 3px solid var(--accent);
  background: var(--sheet-2);
}
.examples label:focus-within {
  outline: 3px solid var(--accent);
  outline-offset: 2px;
}
kbd {
  font: inherit;
  padding: 0 4px;
  border: 1px solid var(--line-2);
  border-radius: 3px;
}
@media (hover: none) {
  kbd {
    display: none;
  }
}
.result {
  border-bottom: 1px dashed var(--line-2);
  padding-bottom: 10px;
}
ul {
  margin: 0;
  padding-left: 20px;
}
@media (max-width: 640px) {
  .examples {
    grid-template-columns: repeat(2, minmax(0, 1fr));
  }
}
</style>
