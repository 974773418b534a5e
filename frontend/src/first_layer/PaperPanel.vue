<script setup lang="ts">
// The offset by paper: a feel, and the Z at which it was felt.  Nothing comes closer on a doubt.
import { useLocalStorage } from '@vueuse/core'
import { useDraft } from '@/shell/draft'
import { computed, watch } from 'vue'
import { send, useSubmit } from '@/api/change'
import type { Schemas } from '@/api/client'
import { useFeels } from '@/api/shown'
import { mm, parseNumber } from '@/shell/format'
import FeelButtons from '@/surveys/FeelButtons.vue'
import TestPrintPanel from './TestPrintPanel.vue'

const props = defineProps<{
  visit: Schemas['VisitOut']
  place: Schemas['PaperIn']['place']
  known: Schemas['NewOffsetOut'] | null
}>()
const { data: feels } = useFeels()
const strip = useLocalStorage('finchwort-strip', { thickness: '0.10', measured: false })
// asked once, for strips and for patches
const zeroShown = useLocalStorage('finchwort-caliper-zero', '')
const how = useLocalStorage<'lowered' | 'felt'>(`finchwort-paper-how-${props.visit.id}`, 'lowered')
const { kept: z } = useDraft(`paper-z-${props.visit.id}`, '')
const step = useLocalStorage(`finchwort-paper-step-${props.visit.id}`, 0.05)
watch(
  () => props.known?.next_z,
  (next) => next !== null && next !== undefined && (z.value = next.toFixed(2)),
)
const add = useSubmit('post', '/api/visits/{visit_id}/offset/paper', () => ({ visit_id: props.visit.id }), {
  said: () => `Written down, felt at Z = ${mm(parseNumber(z.value) ?? 0)}.`,
  undo: (made) => send('delete', '/api/trials/{trial_id}', { trial_id: made.trial! }),
})
const thickness = computed(() => parseNumber(strip.value.thickness))
const more = computed(() =>
  thickness.value && thickness.value > 0 && thickness.value <= 1 ? { paper: thickness.value } : {},
)

async function felt(feel: Schemas['PaperIn']['feel'], lowered: boolean): Promise<void> {
  const at = parseNumber(z.value)
  const zero = strip.value.measured && zeroShown.value.trim() ? parseNumber(zeroShown.value) : null
  if (thickness.value === null) return void add.lacks('Write the thickness of the strip in mm, like 0.10.')
  if (at === null) return void add.lacks('Write the Z that the display shows, like 0.10.')
  if (strip.value.measured && zeroShown.value.trim() && zero === null)
    return void add.lacks('Write what the calipers show on nothing, like 0.01 or -0.01.')
  await add.submit({
    z: at,
    feel,
    thickness: thickness.value,
    measured: strip.value.measured,
    caliper_zero: zero,
    step: lowered ? step.value : 0,
    place: props.place,
  })
}
</script>

<template>
  <el-form class="stack" @submit.prevent="felt('slight', true)">
    <p>Bed and tip hot and clean, tip over the middle of the bed, the strip under it.</p>
    <el-radio-group v-model="how" aria-label="How you feel it"
      ><el-radio-button value="lowered">Lower until it drags</el-radio-button
      ><el-radio-button value="felt">Feel at one height</el-radio-button></el-radio-group
    >
    <p v-if="how === 'lowered'" class="small quiet">
      Raise the tip well above the strip, then lower it in small steps, feeling each time. Stop at the first
      drag, and type the Z that the display shows.
    </p>
    <div class="pair">
      <NumberField
        id="paper-z"
        v-model="z"
        label="Z on the display"
        unit="mm"
        inputmode="text"
        class="big"
        autocomplete="off"
        placeholder="0.10"
      />
      <ChoiceField v-if="how === 'lowered'" id="paper-step" v-model="step" label="Lowered in steps of, mm">
        <el-option v-for="s in feels?.steps ?? [0.05]" :key="s" :value="s" :label="s" />
      </ChoiceField>
    </div>
    <el-button v-if="how === 'lowered'" type="primary" size="large" native-type="submit" :loading="add.busy"
      >It just drags here</el-button
    >
    <FeelButtons v-if="how === 'felt'" :busy="add.busy" @feel="felt($event, false)" />
    <el-button v-else class="held" @click="felt('stuck', false)">It was held where I began</el-button>
    <FoldPart :open="strip.measured"
      ><template #title
        >The strip: {{ strip.thickness }} mm, {{ strip.measured ? 'measured' : 'assumed' }}</template
      >
      <div class="pair">
        <NumberField id="thickness" v-model="strip.thickness" label="Strip, mm thick" />
        <NumberField
          v-if="strip.measured"
          id="zero"
          v-model="zeroShown"
          label="Calipers on nothing show"
          unit="mm"
          inputmode="text"
          placeholder="not looked"
        />
      </div>
      <label class="row"><el-checkbox v-model="strip.measured" label="Measured with calipers" /></label>
      <p class="small quiet">Printing paper is about 0.10 mm. What it is off by, the offset is off by.</p>
    </FoldPart>
    <TroubleNote v-if="add.trouble">{{ add.trouble }}</TroubleNote>
    <CautionNote>
      The tip is hot. Keep fingers off it, use a strip longer than your hand, and never lower onto a strip
      that is held.
    </CautionNote>
    <TestPrintPanel :visit="visit" kind="paper_walk" :more="more" />
  </el-form>
</template>

<style scoped>
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
  align-items: end;
}
/* buttons one below the other, not side by side */
.held {
  margin-left: 0;
}
.big {
  font-size: 1.4rem;
}
</style>
