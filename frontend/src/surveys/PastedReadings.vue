<script setup lang="ts">
import { useDropZone } from '@vueuse/core'
import { computed, inject, ref } from 'vue'
import { ApiError, sentence, type Schemas } from '@/api/client'
import HeightLegend from '@/bed/HeightLegend.vue'
import ReliefMap from '@/bed/ReliefMap.vue'
import type { Column } from '@/components/rows'
import { count, figure, parseNumber } from '@/shell/format'
import type { Draft } from './draft'
import PastedFound from './PastedFound.vue'
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
const UNREAD: Column<{ line: number; text: string; reason: string }>[] = [
  { key: 'line', title: 'Line', says: (one) => one.line, right: true },
  { key: 'text', title: 'Reads', says: (one) => one.text },
  { key: 'reason', title: 'Why not', says: (one) => one.reason },
]
const example = ['x;y;height', '15;15;0,04', '205;15;-0,02', '205;205;-0,11', '15;205;0,07'].join('\n')

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
// so many values, and nobody said how many make a row
const rowsWanted = computed(
  () =>
    error.value instanceof ApiError &&
    ['formats.values_list_many_make', 'formats.values_do_not_make'].includes(error.value.problem.code ?? ''),
)
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
        <DataTable still :rows="lines.slice(0, 30)" :columns="UNREAD" row-key="line" name="unread">
          <template #text="{ row }"
            ><code>{{ row.text }}</code></template
          >
        </DataTable>
      </div>
      <PastedFound
        v-if="found"
        v-model="draft"
        :visit="visit"
        :found="found"
        :busy="busy || behind"
        @store="store"
      />
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
@media (max-width: 800px) {
  .worktable {
    grid-template-columns: 1fr;
  }
}
</style>
