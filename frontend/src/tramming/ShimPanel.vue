<script setup lang="ts">
// A bed without screws: foil under its pads, or tape under a loose plate.
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { sentence, sendKeyed, type Schemas } from '@/api/client'
import { levelling, useShims, useTape } from '@/api/levelling'
import { useChange, useMap } from '@/api/queries'
import HeightLegend from '@/drawing/HeightLegend.vue'
import ReliefMap from '@/drawing/ReliefMap.vue'
import { figure, mm, newKey, parseNumber } from '@/shell/format'
import { tell } from '@/shell/undo'
import SurveyMap from '@/surveys/SurveyMap.vue'
import FoilDrawer from './FoilDrawer.vue'

const props = defineProps<{ visit: Schemas['VisitOut']; survey: number; open: boolean }>()
const router = useRouter()
const pads = computed(() => props.visit.printer.pads.length > 0)
const lower = ref(0)
const { data: plan, error, isPending } = useShims(() => props.survey, lower, pads)
const { data: tape } = useTape(() => props.survey, () => !pads.value || !!error.value)
const stage = ref<'now' | 'after'>('now')
const { data: map } = useMap(() => props.survey)
const spots = computed(() => (map.value?.measured ?? []).map((h, i) => ({ x: map.value!.x[i]!, y: map.value!.y[i]!, text: figure(h - map.value!.measured_relief.datum, true) })))
const notes = computed(() => plan.value?.stacks.map((s) => ({ name: s.name, text: s.foils.length ? `${s.foils.join(' + ')} mm` : 'bare' })) ?? [])
const key = ref(newKey())
const trouble = ref('')
const own = ref<Record<string, string> | null>(null)
const keep = useChange((body: Schemas['AdjustmentIn']) => levelling.adjust(props.survey, body))
const remove = useChange(levelling.deleteAdjustment)
function differently(): void {
  own.value = Object.fromEntries(plan.value!.stacks.map((s) => [s.name, s.foils.join(' + ')]))
}
function stacks(): Schemas['StackIn'][] | null {
  if (!own.value) return plan.value!.stacks.map((s) => ({ name: s.name, foils: s.foils }))
  const read = Object.entries(own.value).map(([name, text]) => ({ name, foils: text.split('+').filter((t) => t.trim()).map(parseNumber) }))
  return read.some((r) => r.foils.some((f) => f === null)) ? null : (read as Schemas['StackIn'][])
}
async function record(what: { shims?: Schemas['StackIn'][]; tape?: Schemas['TapePlace'][] }): Promise<void> {
  trouble.value = ''
  try {
    const made = await sendKeyed(key, (client_key) => keep.mutateAsync({ client_key, ...what }))
    key.value = newKey()
    tell('Recorded. Now measure again.', () => remove.mutateAsync(made.id))
    await router.push(`/visits/${props.visit.id}/measure`)
  } catch (e) {
    trouble.value = sentence(e)
  }
}
function did(): void {
  const found = stacks()
  if (found) void record({ shims: found })
  else trouble.value = 'Write a stack as thicknesses in mm with a plus between them: 0.2 + 0.05. Leave it empty when nothing lies there.'
}
const taped = (): Promise<void> => record({ tape: tape.value!.places.map((p) => ({ x: p.x, y: p.y, layers: p.layers })) })
</script>

<template>
  <div class="worktable even">
    <section v-if="plan" class="sheet stack" aria-label="Map">
      <el-radio-group v-model="stage" aria-label="Stage of the map">
        <el-radio-button value="now">As measured</el-radio-button><el-radio-button value="after">With this foil</el-radio-button>
      </el-radio-group>
      <template v-if="stage === 'after'">
        <ReliefMap :bed="visit.printer.bed" :relief="plan.relief" :limit="Math.max(plan.relief.limit, map?.measured_relief.limit ?? 0)" :pads="visit.printer.pads" :notes="notes" :label="`With this foil: ${mm(plan.spread_after)} from highest to lowest`" />
        <HeightLegend :relief="plan.relief" :limit="Math.max(plan.relief.limit, map?.measured_relief.limit ?? 0)" />
      </template>
      <template v-else-if="map">
        <ReliefMap :bed="map.bed" :relief="map.measured_relief" :pads="visit.printer.pads" :spots="spots" :outline="map.outline" :label="`As measured: ${mm(plan.spread_before)} from highest to lowest`" />
        <HeightLegend :relief="map.measured_relief" beyond />
      </template>
    </section>
    <SurveyMap v-else :survey="survey" quiet />
    <div class="stack">
      <section v-if="pads" class="sheet stack" aria-label="Foil under the pads">
        <p v-if="error" class="trouble" role="alert">{{ sentence(error) }}</p>
        <p v-else-if="isPending" class="quiet" role="status">Trying out stacks …</p>
        <template v-if="plan">
          <h2>{{ plan.done ? 'Leave the pads as they are' : 'Lay foil like this' }}</h2>
          <table class="plain-table">
            <thead><tr><th scope="col">Pad</th><th scope="col">Lies there</th><th scope="col">Should lie there</th><th scope="col" class="right">Change, mm</th></tr></thead>
            <tbody>
              <tr v-for="s in plan.stacks" :key="s.name" :class="{ same: Math.abs(s.change) < 0.001 }">
                <th scope="row">{{ s.name }}</th>
                <td>{{ s.now.length ? `${s.now.join(' + ')} mm` : 'nothing' }}</td>
                <td><b>{{ s.words }}</b></td>
                <td class="right">{{ figure(s.change, true) }}</td>
              </tr>
            </tbody>
          </table>
          <p>{{ plan.sentence }}</p>
          <label class="row lower">
            <input type="checkbox" :checked="lower > 0" @change="lower = ($event.target as HTMLInputElement).checked ? 0.05 : 0" />
            <span>Leave the middle a touch lower ({{ mm(0.05) }}): prints held too well there</span>
          </label>
          <template v-if="open">
            <div v-if="own" class="stack">
              <p class="small">What lies under each pad now, mm, a plus between foils:</p>
              <div v-for="(_, name) in own" :key="name" class="stackline"><label :for="`own-${name}`">{{ name }}</label><input :id="`own-${name}`" v-model="own[name]" class="field" inputmode="text" placeholder="nothing" /></div>
            </div>
            <p v-if="trouble" class="trouble" role="alert">{{ trouble }}</p>
            <div class="row"><el-button v-if="!plan.done || own" type="primary" size="large" :loading="keep.isPending.value" @click="did">I laid it like this</el-button><el-button v-if="!own" size="large" @click="differently">I laid something else</el-button></div>
          </template>
          <p class="caution">Let the bed cool before you lift the plate. Foil edges cut. A taller plate meets the nozzle sooner: home again, hand on the power switch, before anything else.</p>
        </template>
        <details :open="!!error"><summary>Foil in the drawer</summary><FoilDrawer /></details>
      </section>
      <section v-if="!pads" class="sheet stack">
        <h2>No screws, no pads</h2>
        <p>{{ visit.printer.name }} is set up without screws and without pads. A loose plate can be helped with tape; pads and a driven beam are told in the set-up.</p>
        <p><RouterLink :to="`/printers/${visit.printer.id}/edit`">Change the set-up</RouterLink></p>
      </section>
      <section v-if="!pads && tape" class="sheet stack" aria-label="Tape under a loose plate">
        <h3>Tape under a loose plate</h3>
        <ul v-if="tape.places.length" class="tapes"><li v-for="p in tape.places" :key="p.sentence">{{ p.sentence }}</li></ul>
        <p>{{ tape.sentence }}</p>
        <p v-if="trouble" class="trouble" role="alert">{{ trouble }}</p>
        <p v-if="open && tape.places.length"><el-button :loading="keep.isPending.value" @click="taped">I laid the tape</el-button></p>
      </section>
    </div>
  </div>
</template>

<style scoped>
.same td,
.same th {
  color: var(--ink-2);
  font-weight: 400;
}
.lower {
  flex-wrap: nowrap;
}
.lower input {
  width: 20px;
  height: 20px;
  flex: none;
}
.stackline {
  display: grid;
  grid-template-columns: 8em minmax(0, 14em);
  gap: 8px;
  align-items: center;
}
.tapes {
  margin: 0;
  padding-left: 20px;
}
summary {
  cursor: pointer;
  color: var(--accent);
  padding: 6px 0;
}
</style>
