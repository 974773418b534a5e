<script setup lang="ts">
// Paper, feeler gauge, dial, calipers: what the hand felt or saw at each place; the server turns it into heights.
import { computed, ref } from 'vue'
import { ask } from '@/api/ask'
import { sentence, type Schemas } from '@/api/client'
import { useFeels } from '@/api/shown'
import TestPrintPanel from '@/first_layer/TestPrintPanel.vue'
import HeightLegend from '@/bed/HeightLegend.vue'
import ReliefMap from '@/bed/ReliefMap.vue'
import { figure, mm, parseNumber } from '@/shell/format'
import type { Draft } from './draft'
import { usePreview } from './preview'
import FeelButtons from './FeelButtons.vue'
import StraightEdge from './StraightEdge.vue'

const props = defineProps<{ visit: Schemas['VisitOut']; busy: boolean }>()
const emit = defineEmits<{ store: [body: Omit<Schemas['SurveyIn'], 'client_key'>] }>()
const draft = defineModel<Draft>({ required: true })
const hand = computed(() => draft.value.hand)
const printer = computed(() => props.visit.printer)
const { data: feels } = useFeels()
const trouble = ref('')
const WAYS = [
  { value: 'paper', label: 'Feel paper' },
  { value: 'lowered', label: 'Lower until it drags' },
  { value: 'feeler', label: 'Feeler gauge' },
  { value: 'dial', label: 'Dial' },
  { value: 'calipers', label: 'Calipers' },
  { value: 'straightedge', label: 'Straightedge' },
] as const

async function lay(kind: 'screws' | 'grid', columns = 3, rows = 3, inset?: number): Promise<void> {
  try {
    const answer = await ask('/api/printers/{printer_id}/pattern', {
      printer_id: printer.value.id,
      kind,
      columns,
      rows,
      ...(inset === undefined ? {} : { inset }),
    })
    hand.value.points = answer.points.map(({ x, y }, i) => ({
      x,
      y,
      name: answer.names[i] ?? '',
      value: '',
      feel: null,
      stop: '',
      z: '',
    }))
    hand.value.at = 0
  } catch (e) {
    trouble.value = sentence(e)
  }
}
if (!hand.value.points.length) void lay('screws')
// the places of a mesh by hand, in the order they are walked
const mesh = ref({ columns: '3', rows: '3', inset: '' })
function layMesh(): void {
  const [columns, rows, inset] = [
    parseNumber(mesh.value.columns),
    parseNumber(mesh.value.rows),
    mesh.value.inset.trim() ? parseNumber(mesh.value.inset) : undefined,
  ]
  trouble.value = ''
  if (
    columns === null ||
    rows === null ||
    inset === null ||
    columns < 2 ||
    rows < 2 ||
    columns > 9 ||
    rows > 9
  )
    return void (trouble.value = 'Two to nine places a side; the inset in mm, or nothing.')
  void lay('grid', Math.round(columns), Math.round(rows), inset)
}
/** The very stops of the file: their places, their order, their heights. */
function takeStops(spots: Schemas['SpotOut'][]): void {
  hand.value.points = spots.map(({ x, y, z, name }) => ({
    x,
    y,
    name,
    z: z.toFixed(2),
    value: '',
    feel: null,
    stop: '',
  }))
  hand.value.at = 0
}

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
        thickness: hand.value.way === 'lowered' ? parseNumber(hand.value.thickness) : null,
        step: hand.value.way === 'lowered' ? hand.value.step : 0.01,
        points: taken.value.map((p) => ({
          x: p.x,
          y: p.y,
          value: valueOf(p)!,
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
const SHORT: Record<string, string> = {
  free: 'free',
  slight: 'drags',
  strong: 'strong',
  bunches: 'bunches',
  stuck: 'stuck',
}
const walkMore = computed(() => {
  const paper = parseNumber(hand.value.thickness)
  return paper && paper > 0 && paper <= 1 ? { paper } : {}
})
const spots = computed(() =>
  hand.value.points.map((p, i) => ({
    x: p.x,
    y: p.y,
    text:
      hand.value.way === 'paper'
        ? p.feel
          ? SHORT[p.feel]!
          : ''
        : p.value && parseNumber(p.value) !== null
          ? figure(parseNumber(p.value)!, hand.value.way === 'dial' || hand.value.way === 'lowered') +
            (p.stop ? `–${p.stop}` : '')
          : '',
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
        <el-form class="sheet stack" @submit.prevent="next">
          <p v-if="at" class="row spread">
            <b>{{ hand.at + 1 }} of {{ hand.points.length }}{{ at.name ? `: ${at.name}` : '' }}</b
            ><span class="number">x {{ at.x }} y {{ at.y }} mm</span>
          </p>
          <template v-if="hand.way === 'paper'">
            <div class="row">
              <label for="thickness">Strip thickness, mm</label
              ><el-input id="thickness" v-model="hand.thickness" inputmode="decimal" class="short" />
            </div>
            <div v-if="at" class="row">
              <label for="felt-z">Felt at Z on the display, mm</label
              ><el-input id="felt-z" v-model="at.z" inputmode="text" class="short" placeholder="0.00" />
            </div>
            <FeelButtons v-if="at" :chosen="at.feel ?? null" @feel="feel" />
            <p class="small quiet">“Pulls, but bunches up when pushed” is already too close.</p>
          </template>
          <template v-else-if="hand.way === 'lowered' && at">
            <div class="pair">
              <NumberField id="thickness" v-model="hand.thickness" label="Strip thickness" unit="mm" />
              <ChoiceField id="step" v-model="hand.step" label="Lowered in steps of, mm">
                <el-option v-for="one in feels?.steps" :key="one" :value="one" :label="one" />
              </ChoiceField>
            </div>
            <NumberField
              id="drag-z"
              v-model="at.value"
              label="Z at which it just drags"
              unit="mm"
              inputmode="text"
              class="big"
              placeholder="0.25"
            />
            <p class="small quiet">
              Go there high above the bed, lower in small steps until the strip just drags, and type the Z
              that the display shows.
            </p>
          </template>
          <template v-else-if="hand.way === 'feeler' && at">
            <div class="pair">
              <NumberField id="slides" v-model="at.value" label="Thickest leaf that slides" unit="mm" />
              <NumberField
                id="stops"
                v-model="at.stop"
                label="Thinnest that does not"
                unit="mm"
                placeholder="if you tried"
              />
            </div>
            <p class="small quiet">Clean the oil off the leaves before they touch the plate.</p>
          </template>
          <template v-else-if="at">
            <NumberField
              id="shows"
              v-model="at.value"
              :label="hand.way === 'dial' ? 'The dial shows, mm' : 'Plate over base, mm'"
              class="big"
            />
            <fieldset v-if="hand.way === 'dial'">
              <legend class="label">When the bed is higher, the needle goes to …</legend>
              <el-radio-group v-model="hand.plus_is_high" aria-label="Sign of the dial">
                <el-radio-button :value="true">plus</el-radio-button
                ><el-radio-button :value="false">minus</el-radio-button>
              </el-radio-group>
            </fieldset>
            <p v-else class="small quiet">
              From the base to the underside of the plate at each corner, held the same way.
            </p>
          </template>
          <div class="row">
            <el-button v-if="hand.way !== 'paper'" type="primary" size="large" native-type="submit"
              >Next</el-button
            >
            <el-button size="small" @click="lay('screws')"
              >{{
                visit.printer.screws.length ? 'Screws' : visit.printer.pads.length ? 'Pads' : 'Corners'
              }}
              and middle</el-button
            >
            <el-button size="small" @click="lay('grid')">3 × 3</el-button>
          </div>
          <FoldPart v-if="hand.way === 'lowered'" title="A mesh by hand">
            <div class="mesh">
              <NumberField id="mesh-columns" v-model="mesh.columns" label="Columns" inputmode="numeric" />
              <NumberField id="mesh-rows" v-model="mesh.rows" label="Rows" inputmode="numeric" />
              <NumberField id="mesh-inset" v-model="mesh.inset" label="Inset" unit="mm" placeholder="usual" />
            </div>
            <p><el-button size="small" @click="layMesh">Lay these places</el-button></p>
            <p class="small quiet">
              For a machine that follows a mesh and has no probe: store the readings, then make the mesh from
              them in the step Mesh.
            </p>
          </FoldPart>
          <TestPrintPanel
            v-if="hand.way === 'paper'"
            :visit="visit"
            kind="paper_walk"
            :more="walkMore"
            asks
            @stops="takeStops"
          />
        </el-form>
        <section class="sheet stack" aria-live="polite">
          <TroubleNote v-if="error && body">{{ sentence(error) }}</TroubleNote>
          <TroubleNote v-if="trouble">{{ trouble }}</TroubleNote>
          <template v-if="shown">
            <p v-if="shown.figures.at_least !== null">
              <b>At least {{ mm(shown.figures.at_least) }}</b> from highest to lowest.
            </p>
            <p v-else>
              <b>{{ mm(shown.figures.spread) }}</b> from highest to lowest, each trusted to ±{{
                mm(2 * (shown.noise ?? 0))
              }}.
            </p>
            <CautionNote v-for="one in shown.aside" :key="one.place">
              {{ one.sentence }} You can put it back on the map.
            </CautionNote>
            <p v-if="shown.next_place" class="small" aria-live="polite">{{ shown.next_place }}</p>
            <p v-for="one in shown.assumptions" :key="one" class="small">{{ one }}</p>
          </template>
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
.mesh {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 10px;
  align-items: end;
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
