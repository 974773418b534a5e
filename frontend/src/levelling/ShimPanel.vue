<script setup lang="ts">
// A bed without screws: foil under its pads, or tape under a loose plate.
import { computed, ref } from 'vue'
import { call, useApiQuery } from '@/api/ask'
import { changing } from '@/api/change'
import { sentence, type Schemas } from '@/api/client'
import { useMap } from '@/api/shown'
import HeightLegend from '@/bed/HeightLegend.vue'
import ReliefMap from '@/bed/ReliefMap.vue'
import type { Column } from '@/components/rows'
import { figure, mm } from '@/shell/format'
import SurveyMap from '@/surveys/SurveyMap.vue'
import { useAdjusted } from './adjusted'
import FoilDrawer from './FoilDrawer.vue'
import StackEditor from './StackEditor.vue'
import TapePanel from './TapePanel.vue'

const props = defineProps<{ visit: Schemas['VisitOut']; survey: number; open: boolean }>()
const pads = computed(() => props.visit.printer.pads.length > 0)
const lower = ref(0)
const {
  data: plan,
  error,
  isPending,
} = useApiQuery(
  '/api/surveys/{survey_id}/shims',
  () => (pads.value ? { survey_id: props.survey, lower_middle: lower.value } : null),
  { keep: true, once: true },
)
const stage = ref<'now' | 'after'>('now')
const { data: map } = useMap(() => props.survey)
const spots = computed(() =>
  (map.value?.measured ?? []).map((h, i) => ({
    x: map.value!.x[i]!,
    y: map.value!.y[i]!,
    text: figure(h - map.value!.measured_relief.datum, true),
  })),
)
const notes = computed(
  () =>
    plan.value?.stacks.map((s) => ({
      name: s.name,
      text: s.foils.length ? `${s.foils.join(' + ')} mm` : 'bare',
    })) ?? [],
)
const { record, sending } = useAdjusted(
  () => props.visit.id,
  () => props.survey,
)
// what was laid instead, or what lies there before anything is laid
const own = ref<Schemas['StackIn'][] | null>(null)
const there = ref<Schemas['StackIn'][] | null>(null)
const STACKS: Column<Schemas['ShimPlanOut']['stacks'][number]>[] = [
  { key: 'name', title: 'Pad', says: (s) => s.name },
  { key: 'now', title: 'Lies there', says: (s) => (s.now.length ? `${s.now.join(' + ')} mm` : 'nothing') },
  { key: 'words', title: 'Should lie there', says: (s) => s.words },
  { key: 'change', title: 'Change, mm', says: (s) => figure(s.change, true), right: true },
]
const planned = (): Schemas['StackIn'][] =>
  plan.value!.stacks.map((s) => ({ name: s.name, foils: [...s.foils] }))
const lying = (): Schemas['StackIn'][] => plan.value!.stacks.map((s) => ({ name: s.name, foils: [...s.now] }))
const lay = (shims: Schemas['StackIn'][]) =>
  call('put', '/api/printers/{printer_id}/foil', { printer_id: props.visit.printer.id }, { shims })
async function mend(): Promise<void> {
  const before = lying()
  const made = await sending.run(
    () => lay(there.value!),
    'Set right. The plan goes by it.',
    () => changing(() => lay(before)),
  )
  if (made) there.value = null
}
const did = (): Promise<void> => record({ kind: 'shims', stacks: own.value ?? planned() })
</script>

<template>
  <div class="worktable even">
    <section v-if="plan" class="sheet stack" aria-label="Map">
      <el-radio-group v-model="stage" aria-label="Stage of the map">
        <el-radio-button value="now">As measured</el-radio-button
        ><el-radio-button value="after">With this foil</el-radio-button>
      </el-radio-group>
      <template v-if="stage === 'after'">
        <ReliefMap
          :bed="visit.printer.bed"
          :relief="plan.relief"
          :limit="Math.max(plan.relief.limit, map?.measured_relief.limit ?? 0)"
          :pads="visit.printer.pads"
          :notes="notes"
          :label="`With this foil: ${mm(plan.spread_after)} from highest to lowest`"
        />
        <HeightLegend
          :relief="plan.relief"
          :limit="Math.max(plan.relief.limit, map?.measured_relief.limit ?? 0)"
        />
      </template>
      <template v-else-if="map">
        <ReliefMap
          :bed="map.bed"
          :relief="map.measured_relief"
          :pads="visit.printer.pads"
          :spots="spots"
          :outline="map.outline"
          :label="`As measured: ${mm(plan.spread_before)} from highest to lowest`"
        />
        <HeightLegend :relief="map.measured_relief" beyond />
      </template>
    </section>
    <SurveyMap v-else :survey="survey" quiet />
    <div class="stack">
      <section v-if="pads" class="sheet stack" aria-label="Foil under the pads">
        <TroubleNote v-if="error">{{ sentence(error) }}</TroubleNote>
        <WaitBox v-else-if="isPending" says="Trying out stacks …" />
        <template v-if="plan">
          <h2>
            <TermHint term="shim">{{
              plan.done ? 'Leave the pads as they are' : 'Lay foil like this'
            }}</TermHint>
          </h2>
          <DataTable
            still
            :rows="plan.stacks"
            :columns="STACKS"
            row-key="name"
            name="foil"
            :row-class="(s) => (Math.abs(s.change) < 0.001 ? 'same' : '')"
          >
            <template #words="{ row }"
              ><b>{{ row.words }}</b></template
            >
          </DataTable>
          <p>{{ plan.sentence }}</p>
          <el-checkbox :model-value="lower > 0" @change="lower = $event ? 0.05 : 0"
            >Leave the middle a touch lower ({{ mm(0.05) }}): prints held too well there</el-checkbox
          >
          <CautionNote v-if="plan.refused" role="status" class="small">{{ plan.refused }}</CautionNote>
          <p v-else-if="plan.wished && plan.middle_after !== null" class="small">
            The middle lies {{ mm(plan.middle_before ?? 0, true) }} below the rim now, and
            {{ mm(plan.middle_after, true) }} with this foil.
          </p>
          <template v-if="open">
            <p v-if="!plan.done && !own && !there" class="row">
              <RouterLink
                class="el-button go"
                :to="{ path: `/visits/${visit.id}/at-printer`, query: lower ? { lower_middle: lower } : {} }"
                >At the printer</RouterLink
              >
            </p>
            <div v-if="own" class="stack">
              <p>What lies under each pad now:</p>
              <StackEditor v-model="own" />
            </div>
            <div v-if="there" class="stack">
              <p>What lay under each pad when this survey was taken:</p>
              <StackEditor v-model="there" />
            </div>
            <TroubleNote v-if="sending.trouble">{{ sending.trouble }}</TroubleNote>
            <div v-if="there" class="row">
              <el-button type="primary" size="large" :loading="sending.busy" @click="mend"
                >Plan by this</el-button
              ><el-button size="large" @click="there = null">Cancel</el-button>
            </div>
            <div v-else class="row">
              <el-button
                v-if="!plan.done || own"
                type="primary"
                size="large"
                :loading="sending.busy"
                @click="did"
                >I laid it like this</el-button
              >
              <template v-if="!own"
                ><el-button size="large" @click="own = planned()">I laid something else</el-button
                ><el-button size="large" text @click="there = lying()"
                  >Something else lies there</el-button
                ></template
              >
              <el-button v-else size="large" @click="own = null">Cancel</el-button>
            </div>
          </template>
          <CautionNote>
            Let the bed cool before you lift the plate. Foil edges cut. A taller plate meets the nozzle
            sooner: home again, hand on the power switch, before anything else.
          </CautionNote>
        </template>
        <FoldPart title="Foil in the drawer" :open="!!error">
          <FoilDrawer />
        </FoldPart>
      </section>
      <section v-if="!pads" class="sheet stack">
        <h2>No screws, no pads</h2>
        <p>
          {{ visit.printer.name }} is set up without screws and without pads.
          {{ visit.printer.beam_screws ? 'Its beam can be squared, and a' : 'A' }} loose plate can be helped
          with tape.
        </p>
        <p class="row">
          <RouterLink v-if="open" class="el-button go" :to="`/visits/${visit.id}/at-printer`"
            >At the printer</RouterLink
          ><RouterLink :to="`/printers/${visit.printer.id}/edit`">Change the set-up</RouterLink>
        </p>
      </section>
      <section v-if="!pads" class="sheet stack" aria-label="Tape under a loose plate">
        <h3>Tape under a loose plate</h3>
        <TapePanel :visit="visit.id" :survey="survey" :open="open" />
      </section>
    </div>
  </div>
</template>

<style scoped>
:deep(.same) {
  color: var(--ink-2);
  font-weight: 400;
}
.go {
  text-decoration: none;
}
</style>
