<script setup lang="ts">
// Paper, feeler gauge, dial, calipers: what the hand felt or saw at each place; the server turns it into heights.
import { computed, ref } from 'vue'
import { sentence, type Schemas } from '@/api/client'
import { fetchPattern, useFeels } from '@/api/queries'
import HeightLegend from '@/drawing/HeightLegend.vue'
import ReliefMap from '@/drawing/ReliefMap.vue'
import { figure, mm, parseNumber } from '@/shell/format'
import type { Draft } from './draft'
import { usePreview } from './preview'
import StraightEdge from './StraightEdge.vue'

const props = defineProps<{ visit: Schemas['VisitOut']; busy: boolean }>()
const emit = defineEmits<{ store: [body: Omit<Schemas['SurveyIn'], 'client_key'>] }>()
const draft = defineModel<Draft>({ required: true })
const hand = computed(() => draft.value.hand)
const printer = computed(() => props.visit.printer)
const { data: feels } = useFeels()
const trouble = ref('')
const WAYS = [
  { value: 'paper', label: 'Paper' },
  { value: 'feeler', label: 'Feeler gauge' },
  { value: 'dial', label: 'Dial' },
  { value: 'calipers', label: 'Calipers' },
  { value: 'straightedge', label: 'Straightedge' },
] as const

async function lay(kind: 'screws' | 'grid', n = 3): Promise<void> {
  try {
    const answer = await fetchPattern(printer.value.id, { kind, columns: n, rows: n })
    hand.value.points = answer.points.map(({ x, y }) => ({ x, y, value: '', feel: null, stop: '' }))
    hand.value.at = 0
  } catch (e) {
    trouble.value = sentence(e)
  }
}
if (!hand.value.points.length) void lay('screws')

const at = computed(() => hand.value.points[hand.value.at] ?? null)
function valueOf(p: Draft['hand']['points'][number]): number | null {
  if (hand.value.way === 'paper') return p.feel ? parseNumber(hand.value.thickness) : null
  return parseNumber(p.value)
}
const taken = computed(() => hand.value.points.filter((p) => valueOf(p) !== null))
const request = computed<Schemas['HandIn'] | null>(() =>
  hand.value.way === 'straightedge'
    ? null
    : {
        way: hand.value.way,
        plus_is_high: hand.value.plus_is_high,
        points: taken.value.map((p) => ({ x: p.x, y: p.y, value: valueOf(p)!, feel: hand.value.way === 'paper' ? p.feel : null, stop: hand.value.way === 'feeler' ? parseNumber(p.stop) : null })),
      },
)
const body = computed<Schemas['PreviewIn'] | null>(() =>
  request.value && taken.value.length >= 3 ? { by_hand: request.value, flip_x: false, flip_y: false, serpentine: false, first_layer: props.visit.first_layer } : null,
)
const { data: answer, error } = usePreview(printer.value.id, body)
const shown = computed(() => (body.value && !error.value ? (answer.value?.preview ?? null) : null))
const SHORT: Record<string, string> = { free: 'free', slight: 'drags', strong: 'strong', bunches: 'bunches', stuck: 'stuck' }
const spots = computed(() =>
  hand.value.points.map((p, i) => ({
    x: p.x,
    y: p.y,
    text: hand.value.way === 'paper' ? (p.feel ? SHORT[p.feel]! : '') : p.value && parseNumber(p.value) !== null ? figure(parseNumber(p.value)!, hand.value.way === 'dial') + (p.stop ? `–${p.stop}` : '') : '',
    current: i === hand.value.at,
  })),
)
function next(): void {
  const total = hand.value.points.length
  for (let i = 1; i <= total; i++) {
    const index = (hand.value.at + i) % total
    if (valueOf(hand.value.points[index]!) === null) {
      hand.value.at = index
      return
    }
  }
  hand.value.at = Math.min(hand.value.at + 1, total - 1)
}
function feel(which: Schemas['FeelOut']['key']): void {
  if (!at.value) return
  at.value.feel = which
  next()
}
function pick(x: number, y: number): void {
  const { x_min, x_max, y_min, y_max } = printer.value.bed
  if (x < x_min || x > x_max || y < y_min || y > y_max) return
  hand.value.points.push({ x, y, value: '', feel: null, stop: '' })
  hand.value.at = hand.value.points.length - 1
}
const store = (): void => emit('store', { source: hand.value.way as Schemas['HandIn']['way'], by_hand: request.value!, flip_x: false, flip_y: false, serpentine: false })
</script>

<template>
  <div class="stack">
    <el-radio-group v-model="hand.way" aria-label="What you measure with">
      <el-radio-button v-for="way in WAYS" :key="way.value" :value="way.value">{{ way.label }}</el-radio-button>
    </el-radio-group>
    <StraightEdge v-if="hand.way === 'straightedge'" :visit="visit" />
    <div v-else class="worktable">
      <section class="sheet stack">
        <ReliefMap :bed="printer.bed" :relief="shown?.relief ?? null" :screws="printer.screws" :pads="printer.pads" :spots="spots" :outline="shown?.outline ?? []" pickable label="Your bed from above, with the places to feel" @pick="pick" @spot="hand.at = $event" />
        <HeightLegend v-if="shown" :relief="shown.relief" beyond />
        <p v-else class="small quiet">Places in a short walking order. Tap an empty place to measure there as well.</p>
      </section>
      <section class="stack entry">
        <form class="sheet stack" @submit.prevent="next">
          <p v-if="at" class="row spread"><b>Place {{ hand.at + 1 }} of {{ hand.points.length }}</b><span class="number">x {{ at.x }}  y {{ at.y }} mm</span></p>
          <template v-if="hand.way === 'paper'">
            <div class="row"><label for="thickness">Strip thickness, mm</label><input id="thickness" v-model="hand.thickness" class="field short" inputmode="decimal" /></div>
            <fieldset v-if="at" class="feels">
              <legend class="label">How does the strip feel?</legend>
              <button v-for="one in feels?.feels" :key="one.key" type="button" :aria-pressed="at.feel === one.key" @click="feel(one.key)">{{ one.words }}</button>
            </fieldset>
            <p class="small quiet">“Pulls, but bunches up when pushed” is already too close.</p>
          </template>
          <template v-else-if="hand.way === 'feeler' && at">
            <div class="pair">
              <div><label class="label" for="slides">Thickest leaf that slides, mm</label><input id="slides" v-model="at.value" class="field" inputmode="decimal" /></div>
              <div><label class="label" for="stops">Thinnest that does not, mm</label><input id="stops" v-model="at.stop" class="field" inputmode="decimal" placeholder="if you tried" /></div>
            </div>
            <p class="small quiet">Clean the oil off the leaves before they touch the plate.</p>
          </template>
          <template v-else-if="at">
            <label class="label" for="shows">{{ hand.way === 'dial' ? 'The dial shows, mm' : 'Plate over base, mm' }}</label>
            <input id="shows" v-model="at.value" class="field big" inputmode="decimal" />
            <fieldset v-if="hand.way === 'dial'">
              <legend class="label">When the bed is higher, the needle goes to …</legend>
              <el-radio-group v-model="hand.plus_is_high" aria-label="Sign of the dial">
                <el-radio-button :value="true">plus</el-radio-button><el-radio-button :value="false">minus</el-radio-button>
              </el-radio-group>
            </fieldset>
            <p v-else class="small quiet">From the base to the underside of the plate at each corner, held the same way.</p>
          </template>
          <div class="row">
            <el-button v-if="hand.way !== 'paper'" type="primary" size="large" native-type="submit">Next</el-button>
            <el-button size="small" @click="lay('screws')">Screws and middle</el-button>
            <el-button size="small" @click="lay('grid')">3 × 3</el-button>
          </div>
        </form>
        <section class="sheet stack" aria-live="polite">
          <p v-if="error && body" class="trouble" role="alert">{{ sentence(error) }}</p>
          <p v-if="trouble" class="trouble" role="alert">{{ trouble }}</p>
          <template v-if="shown">
            <p><b>{{ mm(shown.figures.spread) }}</b> from highest to lowest, each trusted to ±{{ mm(2 * (shown.noise ?? 0)) }}.</p>
            <p v-for="one in shown.assumptions" :key="one" class="small">{{ one }}</p>
          </template>
          <p v-else class="quiet">{{ taken.length }} of {{ hand.points.length }} places read; three show a tilt.</p>
          <el-button type="primary" size="large" :disabled="!shown" :loading="busy" @click="store">Store these {{ taken.length }} readings</el-button>
        </section>
      </section>
    </div>
  </div>
</template>

<style scoped>
.feels {
  display: grid;
  gap: 8px;
  border: 0;
  padding: 0;
  margin: 0;
}
.feels button {
  font: inherit;
  font-size: 1.1rem;
  font-weight: 600;
  text-align: left;
  color: var(--ink);
  background: var(--el-fill-color-blank);
  border: 1px solid var(--line-2);
  border-radius: var(--round);
  min-height: 52px;
  padding: 6px 14px;
  cursor: pointer;
}
.feels button[aria-pressed='true'] {
  border: 2px solid var(--accent);
  background: var(--sheet-2);
}
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
  align-items: end;
}
.short {
  width: 6em;
}
.big {
  font-size: 1.6rem;
  min-height: 56px;
}
@media (max-width: 800px) {
  .entry {
    order: -1;
  }
}
</style>
