<script setup lang="ts">
// The bed as a landscape: one canvas, and what lies on it layer by layer.
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import { figure } from '@/shell/format'
import { ARROWS } from './arrows'
import { boxAround, provideCanvas, round } from './canvas'
import { readAt, type Point } from './contours'
import BarredLayer from './layers/BarredLayer.vue'
import EdgeLayer from './layers/EdgeLayer.vue'
import PlateLayer from './layers/PlateLayer.vue'
import ReadingLayer from './layers/ReadingLayer.vue'
import ReliefLayer from './layers/ReliefLayer.vue'
import SpotLayer from './layers/SpotLayer.vue'
import SupportLayer from './layers/SupportLayer.vue'
import WordLayer from './layers/WordLayer.vue'
import { FONT } from './palette'
import { NUMBERED, type Edge, type PostNote, type Spot } from './spots'

const props = withDefaults(
  defineProps<{
    bed: Schemas['Bed']
    relief?: Schemas['Relief'] | null
    screws?: { name: string; x: number; y: number }[]
    spots?: Spot[]
    outline?: { x: number; y: number }[]
    notes?: PostNote[]
    label: string
    /** Height of the deepest tint, mm, when it is not the relief's own. */
    limit?: number
    /** Grid points of the relief that are not known: row, first column, one past the last. */
    unknown?: number[][]
    /** Readings that count for nothing, crossed out. */
    crossed?: { x: number; y: number; counts: boolean }[]
    /** Supports without a screw. */
    pads?: { name: string; x: number; y: number }[]
    /** What the probe reaches. */
    reach?: Schemas['Rectangle'] | null
    /** Screws and pads can be moved, by pointer and by arrow keys. */
    movable?: boolean
    /** Straightedges that were laid on, from end to end. */
    edges?: Edge[]
    small?: boolean
    corners?: boolean
    pickable?: boolean
  }>(),
  {
    relief: null,
    screws: () => [],
    pads: () => [],
    reach: null,
    spots: () => [],
    crossed: () => [],
    edges: () => [],
    outline: () => [],
    notes: () => [],
    limit: 0,
    unknown: () => [],
  },
)
const emit = defineEmits<{
  pick: [x: number, y: number]
  spot: [index: number]
  move: [name: string, x: number, y: number]
}>()

const svg = ref<SVGSVGElement | null>(null)
const posts = computed(() => [...props.screws, ...props.pads])
const dragging = ref<string | null>(null)
const box = computed(() => {
  // while something is dragged the frame stays as it is
  const beside = [...(dragging.value ? [] : posts.value), ...props.spots]
  return boxAround(
    props.bed,
    beside,
    props.small ? 0.02 : props.notes.length || props.corners ? 0.085 : 0.055,
  )
})
const { place, ready } = provideCanvas(
  svg,
  () => props.bed,
  box,
  () => props.small,
)
const labelled = computed(() => (props.small || props.spots.length > NUMBERED ? [] : props.spots))

const reading = ref<{ x: number; y: number; text: string } | null>(null)
const cursor = ref<Point | null>(null)
function read([x, y]: Point): void {
  if (!props.relief || props.small) return
  const height = readAt(props.relief, props.bed, x, y)
  const text = height === null ? '' : `x ${x.toFixed(0)}  y ${y.toFixed(0)}: ${figure(height, true)} mm`
  reading.value = text ? { x, y, text } : null
}
function click(event: MouseEvent): void {
  const at = place(event)
  if (props.pickable) emit('pick', Math.round(at[0] * 10) / 10, Math.round(at[1] * 10) / 10)
  read(at)
}
function grab(name: string, event: PointerEvent): void {
  event.stopPropagation()
  dragging.value = name
  svg.value!.setPointerCapture(event.pointerId)
}
function drag(event: PointerEvent): void {
  if (dragging.value === null) return read(place(event))
  const { x_min, x_max, y_min, y_max } = props.bed.plate
  const [x, y] = place(event)
  const [inX, inY] = [Math.min(Math.max(x, x_min), x_max), Math.min(Math.max(y, y_min), y_max)]
  emit('move', dragging.value, Math.round(inX), Math.round(inY))
}
function key(event: KeyboardEvent): void {
  const way = ARROWS[event.key]
  if (!way || props.small || !props.relief) return
  event.preventDefault()
  const { x_min, x_max, y_min, y_max } = props.bed
  const step = (x_max - x_min) / 20
  const [x, y] = cursor.value ?? [(x_min + x_max) / 2, (y_min + y_max) / 2]
  cursor.value = [
    Math.min(x_max, Math.max(x_min, x + way[0] * step)),
    Math.min(y_max, Math.max(y_min, y + way[1] * step)),
  ]
  read(cursor.value)
}
defineExpose({ svg })
</script>

<template>
  <svg
    ref="svg"
    class="map"
    :class="{ pickable, small }"
    :viewBox="`0 0 ${round(box.width)} ${round(box.height)}`"
    :role="movable ? 'group' : 'img'"
    :aria-label="props.label"
    :tabindex="small || !relief ? undefined : 0"
    :data-own-keys="small ? undefined : ''"
    :font-family="FONT"
    @pointermove="drag"
    @pointerup="dragging = null"
    @pointercancel="dragging = null"
    @pointerleave="reading = null"
    @click="click"
    @keydown="key"
  >
    <template v-if="ready">
      <PlateLayer />
      <ReliefLayer :relief="relief" :limit="limit" :unknown="unknown" :spots="labelled" :outline="outline" />
      <BarredLayer :reach="reach" />
      <SupportLayer
        :screws="screws"
        :pads="pads"
        :movable="movable"
        @grab="grab"
        @move="(name, x, y) => emit('move', name, x, y)"
      />
      <SpotLayer
        v-if="!small"
        :spots="spots"
        :crossed="crossed"
        :pickable="pickable"
        @spot="emit('spot', $event)"
      />
      <EdgeLayer :edges="edges" />
      <WordLayer :notes="notes" :posts="posts" :corners="corners" />
      <ReadingLayer v-if="reading" :reading="reading" />
    </template>
  </svg>
  <span v-if="!small && relief" class="visually-hidden" aria-live="polite">{{
    cursor && reading ? reading.text : ''
  }}</span>
</template>

<style scoped>
.map {
  display: block;
  width: 100%;
  height: auto;
  max-height: max(300px, calc(100vh - 400px));
  touch-action: pan-y;
}
.map.small {
  max-height: none;
}
.pickable {
  cursor: crosshair;
}
</style>
