<script setup lang="ts">
// Patches at stepped heights, printed by hand, judged by eye; the next ladder is finer.
import { useDraft } from '@/shell/draft'
import { computed, watch } from 'vue'
import { useApiQuery } from '@/api/ask'
import { send, useSubmit } from '@/api/change'
import { sentence, type Schemas } from '@/api/client'
import BeadSection from '@/charts/BeadSection.vue'
import { asTime, count, figure } from '@/shell/format'
import TestPrintPanel from './TestPrintPanel.vue'

const props = defineProps<{ visit: Schemas['VisitOut'] }>()
const emit = defineEmits<{ found: [correction: Schemas['NewOffsetOut'] | null] }>()
type Step = Schemas['JudgedIn']['step']
const { data, error } = useApiQuery('/api/visits/{visit_id}/ladder', () => ({ visit_id: props.visit.id }))
watch(data, (d) => d && emit('found', d.correction), { immediate: true })
// half a ladder survives a reload
const { kept: judged } = useDraft<Record<string, Step>>(`ladder-${props.visit.id}`, {})
const rungs = computed(() => data.value?.rungs ?? [])
const done = computed(() => rungs.value.filter((r) => judged.value[r.shift]))
const judge = useSubmit('post', '/api/visits/{visit_id}/ladder', () => ({ visit_id: props.visit.id }), {
  said: 'Judged.',
  undo: (made) => send('delete', '/api/trials/{trial_id}', { trial_id: made.id }),
})
async function record(): Promise<void> {
  if (done.value.length < 3)
    return void judge.lacks('Judge three patches or more; leave out those you did not print.')
  const patches = done.value.map((r) => ({ shift: r.shift, step: judged.value[r.shift]! }))
  if (await judge.submit({ patches })) judged.value = {}
}
</script>

<template>
  <TroubleNote v-if="error">{{ sentence(error) }}</TroubleNote>
  <el-form v-else-if="data" class="stack" @submit.prevent="record">
    <p v-if="data.trials.length" role="status">
      {{ count(data.trials.length, 'ladder') }} judged, the newest at
      {{ asTime(data.trials.at(-1)!.made_at) }}.
      {{
        data.one_sided
          ? data.sentence
          : data.done
            ? 'That is as fine as an eye can tell.'
            : 'A finer one, if you like:'
      }}
    </p>
    <p>
      Print a <TermHint term="ladder">ladder</TermHint>: one-layer
      <TermHint term="patch">patches</TermHint> side by side in the middle, each with the offset it names,
      <b>farthest first</b>: by hand, or with the file below. Stop when one scrapes. Then judge each.
    </p>
    <div class="examples" aria-label="What the steps look like">
      <figure v-for="e in data.examples" :key="e.step">
        <BeadSection
          :laid="e.laid"
          :spacing="data.spacing"
          :sliced="data.sliced"
          :label="`${e.words}: ${e.laid.words}`"
          small
        />
        <figcaption>
          <b>{{ e.words }}</b><br /><span class="quiet">{{ e.laid.words }}</span>
        </figcaption>
      </figure>
    </div>
    <fieldset v-for="(r, n) in rungs" :key="r.shift" class="rung">
      <legend>
        <span class="quiet">{{ n + 1 }} · </span><b>{{ r.words }}</b
        ><span v-if="r.value !== null" class="quiet"> at {{ figure(r.value, true, 3) }}</span>
      </legend>
      <el-radio-group v-model="judged[r.shift]" :aria-label="r.words">
        <el-radio-button
          v-for="e in data.examples"
          :key="e.step"
          :value="e.step"
          :aria-label="`${r.words}: ${e.words}`"
          >{{ e.words }}</el-radio-button
        >
      </el-radio-group>
    </fieldset>
    <TroubleNote v-if="judge.trouble">{{ judge.trouble }}</TroubleNote>
    <div class="row spread">
      <el-button type="primary" native-type="submit" :loading="judge.busy">{{
        done.length ? `Judge ${count(done.length, 'patch', 'patches')}` : 'Judge the patches'
      }}</el-button><el-button :disabled="!done.length" @click="judged = {}">Clear</el-button>
    </div>
    <TestPrintPanel :visit="visit" kind="ladder" />
    <CautionNote>
      Watch every patch. If the tip touches the plate, stop the print at once. Let the bed cool before you
      take the patches off.
    </CautionNote>
  </el-form>
  <WaitBox v-else says="Planning the ladder …" />
</template>

<style scoped>
.examples {
  display: grid;
  grid-template-columns: repeat(5, minmax(0, 1fr));
  gap: 8px;
}
figure {
  margin: 0;
  font-size: 0.8rem;
  line-height: 1.25;
}
.rung {
  border: 0;
  border-top: 1px dashed var(--line-2);
  padding: 6px 0 0;
  margin: 0;
  display: grid;
  grid-template-columns: repeat(5, minmax(0, 1fr));
  gap: 6px;
}
.rung label {
  min-height: 44px;
  display: grid;
  place-items: center;
  text-align: center;
  line-height: 1.15;
  border: 1px solid var(--line-2);
  border-radius: var(--round);
  cursor: pointer;
}
.rung label.on {
  background: var(--accent);
  color: var(--sheet);
  font-weight: 650;
}
.rung label:focus-within {
  outline: 3px solid var(--accent);
  outline-offset: 2px;
}
@media (max-width: 640px) {
  .examples {
    grid-template-columns: repeat(2, minmax(0, 1fr));
  }
}
</style>
