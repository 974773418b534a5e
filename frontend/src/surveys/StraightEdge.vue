<script setup lang="ts">
// A straightedge across the plate, and across the bare carrier: which of the two is bent, and how? Its lines lie on
// the bed where they were laid, and several of them show a shape together.
import { computed, ref } from 'vue'
import { sentence, type Schemas } from '@/api/client'
import { useEdges } from '@/api/shown'
import HeightLegend from '@/bed/HeightLegend.vue'
import LineSection from '@/bed/LineSection.vue'
import ReliefMap from '@/bed/ReliefMap.vue'
import { newest, useStoreTest, useTestPreview, type TestData } from '@/probing/tests'
import TestList from '@/probing/TestList.vue'
import { useDraft } from '@/shell/draft'
import { newKey, parseNumber } from '@/shell/format'
import { drawn, WAYS, type Way } from './edges'

const props = defineProps<{ visit: Schemas['VisitOut'] }>()
const bed = computed(() => props.visit.printer.bed)
const sides = (): { width: number; depth: number } => ({
  width: props.visit.printer.width,
  depth: props.visit.printer.depth,
})
const lengthOf = (way: Way): number =>
  way === 'x' ? sides().width : way === 'y' ? sides().depth : Math.hypot(sides().width, sides().depth)
const rowsFor = (way: Way) =>
  [0, 0.25, 0.5, 0.75, 1].map((share) => ({ at: String(Math.round(share * lengthOf(way))), gap: '' }))
const fresh = (what: 'plate' | 'carrier' = 'plate', direction: Way = 'x') => ({
  key: newKey(),
  what,
  direction,
  across: '',
  rows: rowsFor(direction),
})
const { kept: draft } = useDraft(`line-${props.visit.id}`, fresh())
const key = computed({ get: () => draft.value.key, set: (value) => (draft.value.key = value) })
const shownId = ref<number | null>(null)
function lay(way: Way): void {
  const typed = draft.value.rows.some((row) => row.gap.trim())
  draft.value.direction = way
  draft.value.across = ''
  if (!typed) draft.value.rows = rowsFor(way)
}
const middle = computed(() =>
  draft.value.direction === 'x'
    ? (bed.value.y_min + bed.value.y_max) / 2
    : (bed.value.x_min + bed.value.x_max) / 2,
)
const straight = computed(() => draft.value.direction === 'x' || draft.value.direction === 'y')
const filled = computed(() =>
  draft.value.rows
    .map((r) => [parseNumber(r.at), parseNumber(r.gap)] as const)
    .filter((r): r is [number, number] => r[0] !== null && r[1] !== null),
)
const body = computed<TestData | null>(() =>
  filled.value.length >= 3
    ? {
        kind: 'line',
        what: draft.value.what,
        positions: filled.value.map((r) => r[0]),
        gaps: filled.value.map((r) => r[1]),
        direction: draft.value.direction,
        ...(straight.value ? { across: parseNumber(draft.value.across) ?? middle.value } : {}),
      }
    : null,
)
const { data: preview, error } = useTestPreview(() => props.visit.printer.id, body)
const stored = computed(
  () => props.visit.tests.find((t) => t.id === shownId.value) ?? newest(props.visit, 'line'),
)
const result = computed<Schemas['TestResult'] | null>(() =>
  body.value ? (preview.value?.result ?? null) : stored.value,
)
const { sending } = useStoreTest(() => props.visit.id, key)
const { data: laid } = useEdges(
  () => props.visit.id,
  () => draft.value.what,
  true,
)
const edges = computed(() => drawn(laid.value))
async function save(): Promise<void> {
  const test = await sending.submit({ test: body.value! })
  if (!test) return
  // along the same way on the other surface, or the next way that tells more
  const { what, direction } = draft.value
  const next = laid.value?.missing.find((way) => way !== direction)
  draft.value = next ? fresh(what, next) : fresh(what === 'plate' ? 'carrier' : 'plate', direction)
  shownId.value = test.id
}
</script>

<template>
  <!-- eslint-disable vue/no-restricted-html-elements --
  a grid of fields: a row of the kit's is built anew while one types in it -->
  <div class="worktable">
    <div class="stack">
      <section class="sheet stack" aria-label="The line">
        <template v-if="result?.line">
          <p class="say">
            {{ body ? '' : stored?.data.what === 'carrier' ? 'Bare carrier: ' : 'Plate: '
            }}{{ result.sentences[0] }}
          </p>
          <p v-if="result.line.compared">
            <b>{{ result.line.compared }}</b>
          </p>
          <LineSection :line="result.line" />
        </template>
        <template v-else>
          <h2>Is the plate bent, or what it lies on?</h2>
          <p>
            Lay a straightedge across and find the gap under it with a gauge in several places: once on the
            plate, once on the bare carrier.
          </p>
        </template>
      </section>
      <section v-if="laid?.lines.length" class="sheet stack" aria-label="Lines on the bed">
        <h3>
          {{
            draft.what === 'plate'
              ? 'The plate, as the lines show it'
              : 'The bare carrier, as the lines show it'
          }}
        </h3>
        <ReliefMap :bed="bed" :relief="laid.relief" :edges="edges" corners :label="laid.sentence" />
        <HeightLegend v-if="laid.relief" :relief="laid.relief" />
        <p>{{ laid.sentence }}</p>
        <p v-for="one in laid.lines.filter((line) => line.survey)" :key="one.id" class="small">
          <b>From {{ WAYS[one.direction] }}.</b> {{ one.survey }}
        </p>
        <p class="small quiet">An edge knows neither tilt nor height: only how the surface bows along it.</p>
      </section>
      <TestList
        :visit="visit"
        kind="line"
        :shown="body ? null : (stored?.id ?? null)"
        @show="shownId = $event"
      />
    </div>
    <el-form class="sheet stack" @submit.prevent="body && save()">
      <el-radio-group v-model="draft.what" aria-label="What the edge lies on">
        <el-radio-button value="plate">On the plate</el-radio-button
        ><el-radio-button value="carrier">On the bare carrier</el-radio-button>
      </el-radio-group>
      <div>
        <label class="label" for="edge-way">It lies from</label>
        <el-select
          id="edge-way"
          :model-value="draft.direction"
          aria-label="How the edge lies"
          @update:model-value="lay"
        >
          <el-option v-for="(words, way) in WAYS" :key="way" :value="way" :label="words" />
        </el-select>
      </div>
      <label v-if="straight" class="row"
        ><span>at {{ draft.direction === 'x' ? 'Y' : 'X' }}</span
        ><el-input
          v-model="draft.across"
          class="across"
          inputmode="decimal"
          :placeholder="`${middle} (middle)`"
          :aria-label="`${draft.direction === 'x' ? 'Y' : 'X'} of the line, mm`"
        /><span>mm</span></label
      >
      <table class="plain-table">
        <thead>
          <tr>
            <th>Along the edge, mm</th>
            <th>Gap under it, mm</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(row, i) in draft.rows" :key="i">
            <td>
              <NumberField v-model="row.at" :label="`Place ${i + 1}`" unnamed />
            </td>
            <td>
              <NumberField v-model="row.gap" :label="`Gap ${i + 1}`" unnamed placeholder="0.00" />
            </td>
          </tr>
        </tbody>
      </table>
      <p class="row">
        <el-button size="small" @click="draft.rows.push({ at: '', gap: '' })">One more place</el-button>
      </p>
      <TroubleNote v-if="error && body">{{ sentence(error) }}</TroubleNote>
      <TroubleNote v-if="sending.trouble">{{ sending.trouble }}</TroubleNote>
      <el-button
        type="primary"
        size="large"
        native-type="submit"
        :disabled="!body || !!error"
        :loading="sending.busy"
        >Store this line</el-button
      >
      <CautionNote>
        On a hot plate the edge warms and bends too: lay it on briefly, hands off the plate, or measure cold
        and say so in the note.
      </CautionNote>
    </el-form>
  </div>
</template>

<style scoped>
.say {
  font-size: 1.12rem;
}
.across {
  width: 150px;
}
</style>
