<script setup lang="ts">
// The first layer before plastic is used: where it will hold, for this bed and this height of the tip.
import type { paths } from '@/api/schema'
import { useDebounceFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { ask } from '@/api/ask'
import { type Schemas } from '@/api/client'
import { useFollowing } from '@/api/latest'
import BandMap from '@/bed/BandMap.vue'
import BeadSection from '@/charts/BeadSection.vue'
import { BAND_TINT, palette } from '@/bed/palette'
import { mm, parseNumber } from '@/shell/format'
import PrintPanel from './PrintPanel.vue'
import RoundChoice from '@/visits/RoundChoice.vue'

const props = defineProps<{ visit: Schemas['VisitOut']; round: number }>()
defineEmits<{ round: [index: number] }>()
const survey = computed(() => props.visit.rounds[props.round]?.survey ?? null)
type FirstLayerWish = NonNullable<paths['/api/surveys/{survey_id}/first-layer']['get']['parameters']['query']>
const wish = ref<FirstLayerWish>({ stage: 'measured', shift: 0, width: 0.42, flow: 1 })
const width = ref('0.42')
const found = ref<Schemas['FirstLayerOut'] | null>(null)
const STAGES = { measured: 'As measured', plan: 'After the plan', compensated: 'With compensation' } as const
const following = useFollowing(
  async () => {
    const here = survey.value
    if (!here) return null
    // the plan that was made for this survey is given back, not made again for every step of a drag
    const change =
      wish.value.stage === 'plan' && found.value?.survey_id === here.id ? found.value.change : null
    return ask('/api/surveys/{survey_id}/first-layer', { survey_id: here.id, ...wish.value, ...change })
  },
  (answer) => answer && (found.value = answer),
)
const { follow } = following
watch(
  () => survey.value?.id,
  (id) => (found.value?.survey_id !== id ? ((found.value = null), void follow()) : undefined),
  { immediate: true },
)
// what the patches said of the offset is where the tip stands now
let moved = false
watch(
  () => found.value?.stands,
  (stands) => {
    if (moved || stands === null || stands === undefined || Math.abs(stands) < 0.005) return
    moved = true
    wish.value.shift = Math.round(100 * stands) / 100
  },
)
watch(
  () => props.visit.first_layer,
  () => void follow(),
)
watch(wish, () => void follow(), { deep: true })
// quickly while it moves, finely when it rests
const moving = ref(false)
const rest = useDebounceFn(() => (moving.value = false), 180)
watch(
  () => wish.value.shift,
  () => ((moving.value = true), void rest()),
)
function line(): void {
  const read = parseNumber(width.value)
  if (read === null || read === undefined) following.trouble = 'Write the line width in mm, like 0.42.'
  else wish.value.width = read
}
const way = (shift: number): string =>
  Math.abs(shift) < 0.005
    ? 'right in the middle'
    : `${mm(Math.abs(shift))} ${shift < 0 ? 'closer' : 'farther'} than right in the middle`
const percent = (share: number): string =>
  share > 0 && share < 0.005 ? 'under 1 %' : `${Math.round(100 * share)} %`
const shown = computed(
  () => found.value?.bands.toReversed().filter((b) => b.share > 0 || b.band === 'good') ?? [],
)
const looked = ref<'middle' | 0 | 1>('middle')
const laid = computed(() =>
  found.value
    ? looked.value === 'middle'
      ? found.value.middle
      : found.value.places[looked.value]!.laid
    : null,
)
const good = computed(() => found.value?.bands.find((b) => b.band === 'good')?.share ?? 0)
const title = computed(() =>
  found.value?.touches
    ? 'Do not print at this height'
    : good.value > 0.995
      ? 'Good all over the bed'
      : `Good on ${percent(good.value)} of the bed`,
)
const reach = computed(() =>
  Math.min(1, Math.max(0.3, Math.ceil(10 * ((found.value?.closest ?? 0) + 0.1)) / 10)),
)
const better = computed(
  () =>
    found.value &&
    Math.abs(found.value.best - found.value.shift) >= 0.005 &&
    (found.value.touches || found.value.best_share > good.value + 0.005),
)
</script>

<template>
  <!-- eslint-disable vue/no-restricted-html-elements --
  the key of a drawing, read with it -->
  <section v-if="!survey" class="sheet stack">
    <h2>No bed to print on yet</h2>
    <p>The forecast needs readings.</p>
    <p><RouterLink :to="`/visits/${visit.id}/measure`">Put in readings</RouterLink></p>
    <p>
      By eye it goes without:
      <RouterLink :to="`/visits/${visit.id}/looks`">say how each place of a first layer looks</RouterLink>.
    </p>
  </section>
  <div v-else class="stack">
    <RoundChoice :rounds="visit.rounds" :round="round" @round="$emit('round', $event)" />
    <TroubleNote v-if="following.trouble">{{ following.trouble }}</TroubleNote>
    <WaitBox v-if="!found && !following.trouble" says="Laying the first layer in thought …" kind="map" />
    <div v-if="found" class="worktable even">
      <section class="sheet stack" aria-label="First layer over the bed">
        <el-radio-group v-model="wish.stage" aria-label="Bed">
          <el-radio-button v-for="s in found.stages" :key="s" :value="s">{{ STAGES[s] }}</el-radio-button>
        </el-radio-group>
        <BandMap
          :bed="visit.printer.bed"
          :found="found"
          :draft="moving"
          :label="`First layer: ${found.sentence}`"
        />
        <table class="plain-table legend">
          <tbody>
            <tr v-for="b in shown" :key="b.band">
              <td><span class="swatch" :style="{ background: palette.tint(BAND_TINT[b.band]) }" /></td>
              <th scope="row">{{ b.words }}</th>
              <td class="right">{{ percent(b.share) }}</td>
            </tr>
          </tbody>
        </table>
      </section>
      <div class="stack">
        <PrintPanel :visit="visit" />
        <section class="sheet stack comes-first" aria-label="What to expect">
          <h2>{{ title }}</h2>
          <p :class="found.touches ? 'trouble' : ''" :role="found.touches ? 'alert' : undefined">
            {{ found.sentence }}
          </p>
          <p v-if="found.agrees" class="small">{{ found.agrees }}</p>
          <p v-if="found.stands !== null" class="small">
            By your patches the offset as it stands is {{ way(found.stands) }}.
          </p>
          <div>
            <p id="shift-label" class="label">Tip: {{ way(wish.shift ?? 0) }}</p>
            <el-slider
              v-model="wish.shift"
              :min="-reach"
              :max="reach"
              :step="0.01"
              :show-tooltip="false"
              aria-label="Tip closer or farther"
              :format-value-text="(value: number) => way(value)"
            />
            <div class="row spread small quiet"><span>closer</span><span>farther</span></div>
          </div>
          <div class="row">
            <el-button :disabled="!better" @click="wish.shift = Math.round(found.best * 100) / 100"
              >Where most is good</el-button
            >
            <el-button :disabled="Math.abs(wish.shift ?? 0) < 0.005" @click="wish.shift = 0"
              >Right in the middle</el-button
            >
          </div>
          <p class="small quiet">
            {{
              found.closest > 0
                ? `The tip clears the plate only from ${mm(found.closest)} farther.`
                : `The tip clears the plate down to ${mm(-found.closest)} closer.`
            }}
            Nothing is sent to the printer.
            <RouterLink :to="`/visits/${visit.id}/offset`">Z offset</RouterLink>
          </p>
        </section>
        <section v-if="laid" class="sheet stack" aria-label="Bead">
          <div class="row spread">
            <h3>The bead</h3>
            <el-radio-group v-model="looked" size="small" aria-label="Place of the bead"
              ><el-radio-button :value="0">closest</el-radio-button
              ><el-radio-button value="middle">middle</el-radio-button
              ><el-radio-button :value="1">farthest</el-radio-button></el-radio-group
            >
          </div>
          <BeadSection :laid="laid" :spacing="found.spacing" :sliced="found.height" :label="laid.sentence" />
          <p class="small">
            {{
              looked === 'middle'
                ? ''
                : `${found.places[looked]!.name[0]!.toUpperCase()}${found.places[looked]!.name.slice(1)}. `
            }}{{ laid.sentence }}
          </p>
          <p v-for="one in laid.notes" :key="one" class="small">{{ one }}</p>
          <el-form class="row" @submit.prevent="line" @change="line">
            <label class="small" for="line-width">Line width, mm</label>
            <el-input id="line-width" v-model="width" inputmode="decimal" class="narrow" />
            <span class="small quiet"
              >lines {{ found.spacing.toFixed(3) }} mm apart, {{ found.area.toFixed(3) }} mm² of plastic
              each</span
            >
          </el-form>
        </section>
        <CautionNote>
          If the tip ever touches the plate, stop the print at once: both are spoiled. Stay with the first
          layer.
        </CautionNote>
      </div>
    </div>
  </div>
</template>

<style scoped>
.legend th {
  font-weight: 400;
}
.legend .right {
  white-space: nowrap;
}
.swatch {
  display: inline-block;
  width: 26px;
  height: 16px;
  border: 1px solid var(--line-2);
  vertical-align: middle;
}
.slide {
  width: 100%;
  height: 40px;
  accent-color: var(--accent);
}
.narrow {
  width: 6em;
}
</style>
