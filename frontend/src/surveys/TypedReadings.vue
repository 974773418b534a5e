<script setup lang="ts">
import { computed } from 'vue'
import { sentence, type Schemas } from '@/api/client'
import HeightLegend from '@/bed/HeightLegend.vue'
import ReliefMap from '@/bed/ReliefMap.vue'
import { count, figure, mm, parseNumber } from '@/shell/format'
import type { Draft } from './draft'
import { usePreview } from './preview'
import ReadingKind from './ReadingKind.vue'
import { useTyped } from './typed'

const props = defineProps<{ visit: Schemas['VisitOut']; busy: boolean }>()
const emit = defineEmits<{ store: [body: Omit<Schemas['SurveyIn'], 'client_key'>] }>()
const draft = defineModel<Draft>({ required: true })
const printer = computed(() => props.visit.printer)
const PATTERNS = [
  { value: 'screws', label: 'Near the screws and the middle' },
  { value: '3x3', label: '3 × 3' },
  { value: '4x4', label: '4 × 4' },
  { value: '5x5', label: '5 × 5' },
  { value: 'own', label: 'Only where I tap' },
]

const typed = useTyped(draft, printer)
const { trouble, wrong, at, choose, select, next, flip, step, pick, drop, clear } = typed
const filled = computed(() => draft.value.points.filter((p) => parseNumber(p.text) !== null))
const points = computed(() => filled.value.map((p) => ({ x: p.x, y: p.y, value: parseNumber(p.text)! })))
const body = computed<Schemas['PreviewIn'] | null>(() =>
  points.value.length < 3
    ? null
    : {
        points: points.value,
        values: draft.value.values ?? 'height',
        unit: draft.value.unit ?? 'mm',
        first_layer: props.visit.first_layer,
      },
)
const { data: answer, error } = usePreview(printer.value.id, props.visit.id, body)
const shown = computed(() => (body.value && !error.value ? (answer.value?.preview ?? null) : null))
const waiting = computed(() => (body.value && !error.value ? answer.value?.waiting?.reason : undefined))
const spots = computed(() =>
  draft.value.points.map((p, i) => {
    const value = parseNumber(p.text)
    return {
      x: p.x,
      y: p.y,
      text: value === null ? p.text : figure(value, true, draft.value.unit === 'um' ? 0 : 2),
      current: i === draft.value.at,
    }
  }),
)

function store(): void {
  const bad = draft.value.points.findIndex((p) => p.text.trim() && parseNumber(p.text) === null)
  if (bad >= 0) {
    select(bad)
    wrong.value = `“${draft.value.points[bad]!.text}” is not a number.`
    return
  }
  emit('store', {
    source: 'typed',
    points: points.value,
    values: draft.value.values ?? 'height',
    unit: draft.value.unit ?? 'mm',
    flip_x: false,
    flip_y: false,
  })
}
</script>

<template>
  <div class="worktable">
    <section class="sheet stack">
      <ReliefMap
        :bed="printer.bed"
        :relief="shown?.relief ?? null"
        :screws="printer.screws"
        :spots="spots"
        :outline="shown?.outline ?? []"
        :crossed="shown?.aside ?? []"
        pickable
        label="Your bed from above, with the places to measure"
        @pick="pick"
        @spot="select"
      />
      <HeightLegend v-if="shown" :relief="shown.relief" beyond />
      <p v-else class="small quiet">
        The landscape grows from the third reading on. Tap an empty place to measure there as well.
      </p>
    </section>
    <section class="stack">
      <el-form class="sheet stack entry" @submit.prevent="next">
        <template v-if="at">
          <div class="row spread">
            <label class="label" for="reading">Reading {{ draft.at + 1 }} of {{ draft.points.length }}</label>
            <span class="number">x {{ at.x }} y {{ at.y }} mm</span>
          </div>
          <div class="row nowrap">
            <el-input
              id="reading"
              ref="field"
              v-model="at.text"
              inputmode="decimal"
              class="big"
              :aria-invalid="!!wrong"
              aria-describedby="reading-help"
              placeholder="0.00"
              @keydown.up.prevent="step(-1)"
              @keydown.down.prevent="step(1)"
            />
            <el-button size="large" aria-label="Change the sign" title="Change the sign" @click="flip"
              >±</el-button
            >
            <span class="unit">{{ draft.unit === 'um' ? 'µm' : 'mm' }}</span>
            <el-button type="primary" size="large" native-type="submit">Next</el-button>
          </div>
          <p id="reading-help" class="small quiet">
            Enter moves on, ↑ ↓ go back and forth, point or comma. Leave out what you did not measure.
          </p>
          <p v-if="wrong" class="wrong" role="alert">{{ wrong }}</p>
        </template>
        <p v-else>Tap the bed where you measured.</p>
        <div class="row">
          <el-button size="small" :disabled="!at" @click="drop">Remove this place</el-button>
          <el-button size="small" @click="clear">Begin again</el-button>
          <RouterLink class="el-button el-button--small plain" :to="`/visits/${visit.id}/keypad`"
            >Large keypad</RouterLink
          >
        </div>
      </el-form>
      <div class="sheet stack">
        <ChoiceField
          id="pattern"
          label="Places to measure"
          :model-value="draft.pattern"
          @update:model-value="choose"
        >
          <el-option v-for="p in PATTERNS" :key="p.value" :value="p.value" :label="p.label" />
        </ChoiceField>
        <div class="row">
          <ReadingKind
            :values="draft.values ?? 'height'"
            :unit="draft.unit ?? 'mm'"
            @values="draft.values = $event"
            @unit="draft.unit = $event"
          />
        </div>
        <p class="small quiet">
          {{
            draft.values === 'gap'
              ? 'Gap: the distance from nozzle to bed, as paper and feeler gauges give it. Larger means farther.'
              : 'Height: how high the bed is, as probes give it. Larger means closer to the nozzle.'
          }}
        </p>
      </div>
      <div class="sheet stack" aria-live="polite">
        <p v-if="error && body" class="wrong">{{ sentence(error) }}</p>
        <template v-if="shown">
          <p>
            <b>{{ mm(shown.figures.spread) }}</b> from highest to lowest so far.
          </p>
          <CautionNote v-for="one in shown.aside" :key="one.place">
            {{ one.sentence }} You can put it back on the map.
          </CautionNote>
          <p v-if="shown.next_place" class="small" aria-live="polite">{{ shown.next_place }}</p>
        </template>
        <p v-else-if="points.length < 3" class="quiet">
          {{ count(3 - points.length, 'more reading') }} until a tilt can show.
        </p>
        <p v-else-if="waiting" class="quiet">{{ waiting }} Go on with the next place.</p>
        <TroubleNote v-if="shown?.doubt">{{ shown.doubt }}</TroubleNote>
        <p v-if="trouble" class="wrong">{{ trouble }}</p>
        <el-button
          type="primary"
          size="large"
          :disabled="points.length < 3 || !!error || !!waiting"
          :loading="busy"
          @click="store"
          >Store these {{ points.length }} readings</el-button
        >
      </div>
    </section>
  </div>
</template>

<style scoped>
.nowrap {
  flex-wrap: nowrap;
}
.plain {
  text-decoration: none;
}
.big {
  font-size: 1.8rem;
  font-weight: 650;
  min-height: 60px;
}
.unit {
  font-size: 1.1rem;
}
@media (max-width: 800px) {
  .entry {
    position: sticky;
    bottom: 0;
    z-index: 2;
    order: -1;
  }
}
</style>
