<script setup lang="ts">
import { useDropZone } from '@vueuse/core'
import { computed, inject, ref } from 'vue'
import { ApiError, sentence, type Schemas } from '@/api/client'
import HeightLegend from '@/bed/HeightLegend.vue'
import ReliefMap from '@/bed/ReliefMap.vue'
import { count, figure, mm, parseNumber } from '@/shell/format'
import type { Draft } from './draft'
import { usePreview } from './preview'

const props = defineProps<{ visit: Schemas['VisitOut']; busy: boolean }>()
const emit = defineEmits<{ store: [body: Omit<Schemas['SurveyIn'], 'client_key'>] }>()
const draft = defineModel<Draft>({ required: true })
const printer = computed(() => props.visit.printer)
const sort = inject<(text: string) => void>('sort')
const zone = ref<HTMLElement | null>(null)
const fileTrouble = ref('')
const MOST = 1_000_000

async function take(file: File | undefined): Promise<void> {
  if (!file) return
  if (file.size > MOST) {
    fileTrouble.value = `${file.name} is larger than 1 MB. Readings of a bed are much smaller; is it the right file?`
    return
  }
  fileTrouble.value = ''
  const bytes = new Uint8Array(await file.arrayBuffer())
  // a binary file goes as it is, text can be read and mended here
  const binary = bytes[0] === 0x89 || bytes.subarray(0, 4_096).includes(0)
  draft.value.file = binary ? { name: file.name, data: base64(bytes) } : null
  draft.value.text = binary ? '' : new TextDecoder().decode(bytes)
  draft.value.source = 'file'
  // a console's log may tell more than heights
  if (!binary) sort?.(draft.value.text)
}
function base64(bytes: Uint8Array): string {
  let text = ''
  for (let at = 0; at < bytes.length; at += 0x8000)
    text += String.fromCharCode(...bytes.subarray(at, at + 0x8000))
  return btoa(text)
}
function typedOver(): void {
  draft.value.source = 'pasted'
  draft.value.file = null
}
const { isOverDropZone } = useDropZone(zone, { onDrop: (files) => void take(files?.[0]) })
const example = ['x;y;height', '15;15;0,04', '205;15;-0,02', '205;205;-0,11', '15;205;0,07'].join('\n')

const SIDES = ['x_min', 'y_min', 'x_max', 'y_max'] as const
const bounds = computed<Schemas['BoundsIn'] | null>(() => {
  const [x_min, y_min, x_max, y_max] = (draft.value.bounds ?? []).map(parseNumber)
  return x_min == null || y_min == null || x_max == null || y_max == null
    ? null
    : { x_min, y_min, x_max, y_max }
})
const request = computed(() => ({
  ...(draft.value.file ? { file: draft.value.file.data } : { text: draft.value.text }),
  layout: draft.value.layout,
  serpentine: draft.value.serpentine,
  columns: draft.value.columns.trim() ? parseNumber(draft.value.columns) : null,
  values: draft.value.values,
  unit: draft.value.unit,
  flip_x: draft.value.flip_x,
  flip_y: draft.value.flip_y,
  bounds: bounds.value,
}))
const body = computed<Schemas['PreviewIn'] | null>(() =>
  draft.value.file || draft.value.text.trim()
    ? { ...request.value, first_layer: props.visit.first_layer }
    : null,
)
const { data, error, behind } = usePreview(printer.value.id, props.visit.id, body)
const found = computed(() => (body.value && !error.value ? (data.value?.preview ?? null) : null))
const lines = computed(() =>
  error.value instanceof ApiError ? (error.value.problem.lines ?? []) : (found.value?.lines ?? []),
)
const spots = computed(() =>
  found.value
    ? found.value.x.map((x, i) => ({
        x,
        y: found.value!.y[i]!,
        text: figure(found.value!.height[i]! - found.value!.relief.datum, true),
      }))
    : [],
)
// what is being typed stays as it is, whatever the server answers meanwhile
const typing = ref<{ index: number; text: string } | null>(null)
function setBound(index: number, value: string): void {
  draft.value.bounds = SIDES.map((_, i) => (i === index ? value : boundText(i)))
  typing.value = null
}
const boundText = (index: number): string =>
  typing.value?.index === index
    ? typing.value.text
    : (draft.value.bounds?.[index] ?? String(found.value?.bounds?.[SIDES[index]!] ?? ''))
// so many values, and nobody said how many make a row
const rowsWanted = computed(
  () =>
    error.value instanceof ApiError &&
    ['formats.values_list_many_make', 'formats.values_do_not_make'].includes(error.value.problem.code ?? ''),
)
const BOUNDS = ['Left X', 'Front Y', 'Right X', 'Back Y']
function store(): void {
  emit('store', {
    ...request.value,
    values: found.value!.values,
    unit: found.value!.unit,
    layout: found.value!.layout,
    source: draft.value.source,
  })
}
</script>

<template>
  <div class="worktable">
    <section class="stack">
      <div ref="zone" class="sheet stack" :class="{ over: isOverDropZone }">
        <div class="row spread">
          <label class="label" for="pasted">Paste your readings, or drop a file here</label>
          <FileDrop
            label="Choose a file"
            accept=".csv,.txt,.tsv,.json,.sdf,.log,.svg,.png,text/*,application/json,image/png,image/svg+xml"
            @file="take"
          />
        </div>
        <el-input
          id="pasted"
          v-model="draft.text"
          type="textarea"
          :rows="9"
          spellcheck="false"
          :placeholder="example"
          @input="typedOver"
        />
        <p v-if="draft.file" class="row spread">
          <span>{{ draft.file.name }}</span><el-button size="small" @click="draft.file = null"
            >Take it away</el-button
          >
        </p>
        <p class="small quiet">
          One line a point (x, y, height), or a bare grid; JSON; an SDF file (ISO 25178-71); what a printer’s
          console said, chatter and all; or a picture saved from a map. Up to 1 MB.
        </p>
        <p v-if="fileTrouble" class="wrong" role="alert">{{ fileTrouble }}</p>
      </div>
      <div v-if="error && body" class="trouble stack" role="alert">
        <p>{{ sentence(error) }}</p>
        <NumberField
          v-if="draft.layout === 'list' || rowsWanted"
          v-model="draft.columns"
          label="Values in a row"
          class="narrow"
          inputmode="numeric"
        />
        <el-button v-if="draft.layout" size="small" @click="draft.layout = null"
          >Let Finchwort guess the layout</el-button
        >
      </div>
      <div v-if="lines.length" class="sheet stack">
        <h3>{{ count(found?.unread ?? lines.length, 'line') }} could not be read</h3>
        <table class="plain-table">
          <tbody>
            <tr v-for="line in lines.slice(0, 30)" :key="line.line">
              <th scope="row">{{ line.line }}</th>
              <td>
                <code>{{ line.text }}</code>
              </td>
              <td>{{ line.reason }}</td>
            </tr>
          </tbody>
        </table>
      </div>
      <div v-if="found" class="sheet stack">
        <h3>This was understood</h3>
        <p>
          {{ count(found.x.length, 'reading')
          }}{{ found.layout !== 'points' ? `, a grid of ${found.columns} × ${found.rows}` : '' }},
          {{ mm(found.figures.spread) }} from highest to lowest.
        </p>
        <ul v-if="found.assumptions.length" class="small">
          <li v-for="one in found.assumptions" :key="one">{{ one }}</li>
        </ul>
        <CautionNote v-for="one in found.aside" :key="one.place">
          {{ one.sentence }} You can put it back on the map.
        </CautionNote>
        <TroubleNote v-if="found.doubt">
          {{ found.doubt }} <RouterLink :to="`/printers/${printer.id}/edit`">To the set-up</RouterLink>
        </TroubleNote>
        <p><b>Look at the corners on the map.</b> If they are not where they belong, put it right here:</p>
        <div class="row">
          <el-button
            :type="draft.flip_y ? 'primary' : undefined"
            :aria-pressed="draft.flip_y"
            @click="draft.flip_y = !draft.flip_y"
            >Swap front and back</el-button
          >
          <el-button
            :type="draft.flip_x ? 'primary' : undefined"
            :aria-pressed="draft.flip_x"
            @click="draft.flip_x = !draft.flip_x"
            >Swap left and right</el-button
          >
        </div>
        <div class="row">
          <el-radio-group
            :model-value="found.values"
            aria-label="What the values are"
            @update:model-value="draft.values = $event as 'height' | 'gap'"
          >
            <el-radio-button value="height">Heights</el-radio-button
            ><el-radio-button value="gap">Gaps</el-radio-button>
          </el-radio-group>
          <el-radio-group
            :model-value="found.unit"
            aria-label="Unit"
            @update:model-value="draft.unit = $event as 'mm' | 'um'"
          >
            <el-radio-button value="mm">mm</el-radio-button><el-radio-button value="um">µm</el-radio-button>
          </el-radio-group>
          <el-radio-group
            v-if="!draft.file"
            :model-value="found.layout"
            aria-label="Layout"
            @update:model-value="draft.layout = $event as Draft['layout']"
          >
            <el-radio-button value="points">Points</el-radio-button
            ><el-radio-button value="grid">Grid</el-radio-button>
            <el-radio-button value="indices">Column, row</el-radio-button
            ><el-radio-button value="list">List</el-radio-button>
          </el-radio-group>
        </div>
        <div v-if="found.layout !== 'points'" class="row">
          <el-button
            v-if="found.layout !== 'indices'"
            :type="draft.serpentine ? 'primary' : undefined"
            :aria-pressed="draft.serpentine"
            @click="draft.serpentine = !draft.serpentine"
            >Rows walked to and fro</el-button
          >
          <NumberField
            v-if="found.layout === 'list'"
            v-model="draft.columns"
            label="Values in a row"
            class="narrow"
            inputmode="numeric"
          />
        </div>
        <fieldset v-if="found.layout !== 'points'">
          <legend class="label">Outer readings lie at, mm</legend>
          <div class="four">
            <NumberField
              v-for="(name, i) in BOUNDS"
              :key="name"
              :label="name"
              :model-value="boundText(i)"
              @update:model-value="typing = { index: i, text: $event }"
              @change="setBound(i, $event)"
            />
          </div>
        </fieldset>
        <el-button type="primary" size="large" :loading="busy || behind" @click="store"
          >Store these {{ found.x.length }} readings</el-button
        >
      </div>
    </section>
    <section class="sheet stack">
      <ReliefMap
        :bed="printer.bed"
        :relief="found?.relief ?? null"
        :screws="printer.screws"
        :spots="spots"
        :outline="found?.outline ?? []"
        :crossed="found?.aside ?? []"
        corners
        label="Your bed from above, corners named, with what was understood"
      />
      <HeightLegend v-if="found" :relief="found.relief" beyond />
      <p v-else class="quiet">Your bed appears here as soon as there are readings.</p>
    </section>
  </div>
</template>

<style scoped>
.worktable {
  display: grid;
  grid-template-columns: minmax(0, 5fr) minmax(0, 6fr);
  gap: 18px;
  align-items: start;
}
.over {
  outline: 3px dashed var(--accent);
}
.narrow {
  width: 5em;
  display: inline-block;
}
.four {
  display: grid;
  grid-template-columns: repeat(4, 1fr);
  gap: 8px;
}
ul {
  margin: 0;
  padding-left: 20px;
}
@media (max-width: 800px) {
  .worktable {
    grid-template-columns: 1fr;
  }
  .four {
    grid-template-columns: 1fr 1fr;
  }
}
</style>
