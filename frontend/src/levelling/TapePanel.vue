<script setup lang="ts">
// Tape between a plate, or a glass, and what carries it: where by the map, how thick, and where it does not help.
import { computed, ref } from 'vue'
import { useApiQuery } from '@/api/ask'
import { sentence } from '@/api/client'
import { parseNumber } from '@/shell/format'
import { useAdjusted } from './adjusted'

const props = defineProps<{ visit: number; survey: number; open: boolean }>()
const typed = ref('0.06')
const thickness = ref(0.06)
const { data: tape, error } = useApiQuery(
  '/api/surveys/{survey_id}/tape',
  () => ({ survey_id: props.survey, thickness: thickness.value }),
  { keep: true, once: true },
)
const { record, sending } = useAdjusted(
  () => props.visit,
  () => props.survey,
)
const wrong = computed(() => {
  const value = parseNumber(typed.value)
  return value === null || value < 0.02 || value > 0.5
})
function measure(): void {
  if (!wrong.value) thickness.value = parseNumber(typed.value)!
}
const taped = (): Promise<void> =>
  record({
    kind: 'tape',
    places: tape.value!.places.map(({ x, y, layers }) => ({ x: Math.round(x), y: Math.round(y), layers })),
  })
</script>

<template>
  <div class="stack" aria-label="Tape under the plate" role="group">
    <label class="row"
      ><span>One layer of your tape is</span
      ><el-input
        v-model="typed"
        class="thick"
        inputmode="decimal"
        aria-label="One layer of tape, mm"
        @change="measure"
      /><span>mm thick</span></label
    >
    <p v-if="wrong" class="wrong">Tape is 0.02 to 0.5 mm thick.</p>
    <TroubleNote v-if="error">{{ sentence(error) }}</TroubleNote>
    <template v-if="tape">
      <ol v-if="tape.places.length" class="tapes">
        <li v-for="p in tape.places" :key="p.sentence">{{ p.sentence }}</li>
      </ol>
      <p v-for="h in tape.humps" :key="h.sentence" class="small">{{ h.sentence }}</p>
      <p>{{ tape.sentence }}</p>
      <TroubleNote v-if="sending.trouble">{{ sending.trouble }}</TroubleNote>
      <template v-if="open && tape.places.length">
        <p class="row"><el-button :loading="sending.busy" @click="taped">I laid the tape</el-button></p>
        <CautionNote>
          Let the bed cool before you lift the plate; edges of glass cut. Masking tape is for beds up to about
          90 °C: on a hotter one take polyimide. Home again afterwards with a hand on the power switch.
        </CautionNote>
      </template>
    </template>
  </div>
</template>

<style scoped>
.thick {
  width: 90px;
}
.tapes {
  margin: 0;
  padding-left: 20px;
}
</style>
