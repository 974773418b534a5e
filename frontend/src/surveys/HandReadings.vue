<script setup lang="ts">
// Paper, feeler gauge, dial, calipers: what the hand felt or saw at each place; the server turns it into heights.
import { computed } from 'vue'
import { later } from '@/components/later'
import { sentence, type Schemas } from '@/api/client'
import { useFeels } from '@/api/shown'
import HeightLegend from '@/bed/HeightLegend.vue'
import ReliefMap from '@/bed/ReliefMap.vue'
import { figure, parseNumber } from '@/shell/format'
import { valueOf, type Draft } from './draft'
import { usePreview } from './preview'
import HandEntry from './HandEntry.vue'
import HandSaid from './HandSaid.vue'

const StraightEdge = later(() => import('./StraightEdge.vue'))
const props = defineProps<{ visit: Schemas['VisitOut']; busy: boolean }>()
const emit = defineEmits<{ store: [body: Omit<Schemas['SurveyIn'], 'client_key'>] }>()
const draft = defineModel<Draft>({ required: true })
const hand = computed(() => draft.value.hand)
const printer = computed(() => props.visit.printer)
const WAYS = [
  { value: 'paper', label: 'Feel paper' },
  { value: 'lowered', label: 'Lower until it drags' },
  { value: 'feeler', label: 'Feeler gauge' },
  { value: 'dial', label: 'Dial' },
  { value: 'calipers', label: 'Calipers' },
  { value: 'straightedge', label: 'Straightedge' },
] as const

const at = computed(() => hand.value.points[hand.value.at] ?? null)
const taken = computed(() => hand.value.points.filter((p) => valueOf(hand.value, p) !== null))
const request = computed<Schemas['HandIn'] | null>(() =>
  hand.value.way === 'straightedge'
    ? null
    : {
        way: hand.value.way,
        plus_is_high: hand.value.plus_is_high,
        thickness: hand.value.way === 'lowered' ? parseNumber(hand.value.thickness) : null,
        step: hand.value.way === 'lowered' ? hand.value.step : 0.01,
        points: taken.value.map((p) => ({
          x: p.x,
          y: p.y,
          value: valueOf(hand.value, p)!,
          feel: hand.value.way === 'paper' ? p.feel : null,
          stop: hand.value.way === 'feeler' ? parseNumber(p.stop) : null,
          z: hand.value.way === 'paper' ? (parseNumber(p.z || '0') ?? 0) : 0,
        })),
      },
)
const body = computed<Schemas['PreviewIn'] | null>(() =>
  request.value && taken.value.length >= 3
    ? {
        by_hand: request.value,
        flip_x: false,
        flip_y: false,
        serpentine: false,
        first_layer: props.visit.first_layer,
      }
    : null,
)
const { data: answer, error } = usePreview(printer.value.id, props.visit.id, body)
const shown = computed(() => (body.value && !error.value ? (answer.value?.preview ?? null) : null))
const { data: feels } = useFeels()
const short = (feel: string): string => feels.value?.feels.find((one) => one.key === feel)?.short ?? ''
const spots = computed(() =>
  hand.value.points.map((p, i) => ({
    x: p.x,
    y: p.y,
    text:
      hand.value.way === 'paper'
        ? p.feel
          ? short(p.feel)
          : ''
        : p.value && parseNumber(p.value) !== null
          ? figure(parseNumber(p.value)!, hand.value.way === 'dial' || hand.value.way === 'lowered') +
            (p.stop ? `–${p.stop}` : '')
          : '',
    current: i === hand.value.at,
  })),
)
function pick(x: number, y: number): void {
  const { x_min, x_max, y_min, y_max } = printer.value.bed
  if (x < x_min || x > x_max || y < y_min || y > y_max) return
  hand.value.points.push({ x, y, value: '', feel: null, stop: '', name: '', z: at.value?.z ?? '' })
  hand.value.at = hand.value.points.length - 1
}
const store = (): void =>
  emit('store', {
    source: hand.value.way as Schemas['HandIn']['way'],
    by_hand: request.value!,
    flip_x: false,
    flip_y: false,
    serpentine: false,
  })
</script>

<template>
  <div class="stack">
    <el-radio-group v-model="hand.way" aria-label="What you measure with">
      <el-radio-button v-for="way in WAYS" :key="way.value" :value="way.value">{{
        way.label
      }}</el-radio-button>
    </el-radio-group>
    <p v-if="hand.way === 'paper' && printer.screws.length" class="row bench">
      <span>A strip says which way, seldom how far. To level with it, turn corner by corner:</span>
      <RouterLink class="el-button el-button--primary go" :to="`/visits/${visit.id}/bench`"
        >Level at the bench</RouterLink
      >
    </p>
    <StraightEdge v-if="hand.way === 'straightedge'" :visit="visit" />
    <div v-else class="worktable">
      <section class="sheet stack">
        <ReliefMap
          :bed="printer.bed"
          :relief="shown?.relief ?? null"
          :unknown="shown?.unknown ?? []"
          :screws="printer.screws"
          :pads="printer.pads"
          :spots="spots"
          :outline="shown?.outline ?? []"
          :crossed="shown?.aside ?? []"
          pickable
          label="Your bed from above, with the places to feel"
          @pick="pick"
          @spot="hand.at = $event"
        />
        <HeightLegend v-if="shown" :relief="shown.relief" beyond />
        <p v-else class="small quiet">
          Places in a short walking order. Tap an empty place to measure there as well.
        </p>
      </section>
      <section class="stack entry">
        <HandEntry v-model="draft.hand" :visit="visit" />
        <section class="sheet stack" aria-live="polite">
          <TroubleNote v-if="error && body">{{ sentence(error) }}</TroubleNote>
          <HandSaid v-if="shown" :shown="shown" />
          <p v-else class="quiet">
            {{ taken.length }} of {{ hand.points.length }} places read; three show a tilt.
          </p>
          <el-button type="primary" size="large" :disabled="!shown" :loading="busy" @click="store"
            >Store these {{ taken.length }} readings</el-button
          >
        </section>
      </section>
    </div>
  </div>
</template>

<style scoped>
.bench {
  background: var(--sheet-2);
  border-radius: var(--round);
  padding: 10px 14px;
}
.go {
  text-decoration: none;
}
@media (max-width: 800px) {
  .entry {
    order: -1;
  }
}
</style>
