<script setup lang="ts">
// The bed as a landscape: data in, picture out.
import { useElementSize } from '@vueuse/core'
import { computed, ref, useId } from 'vue'
import type { Schemas } from '@/api/client'
import { figure } from '@/shell/format'
import { landscape, readAt, type Point } from './contours'
import { FONT, palette } from './palette'

export interface Spot {
  x: number
  y: number
  text: string
  current?: boolean
}
export interface PostNote {
  name: string
  text: string
}

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
    edges?: { from: { x: number; y: number }; to: { x: number; y: number }; text: string }[]
    small?: boolean
    corners?: boolean
    pickable?: boolean
  }>(),
  { relief: null, screws: () => [], pads: () => [], reach: null, spots: () => [], crossed: () => [], edges: () => [], outline: () => [], notes: () => [], limit: 0, unknown: () => [] },
)
const emit = defineEmits<{ pick: [x: number, y: number]; spot: [index: number]; move: [name: string, x: number, y: number] }>()

const svg = ref<SVGSVGElement | null>(null)
const { width, height } = useElementSize(svg)
const clip = useId()
const hatch = useId()
const unsure = useId()
const barred = useId()

const dragging = ref<string | null>(null)
const box = computed(() => {
  const { x_min: x0, y_min: y0, x_max: x1, y_max: y1 } = props.bed.plate
  // while something is dragged the frame stays as it is
  const held = dragging.value ? [] : [...props.screws, ...props.pads]
  const xs = [x0, x1, ...held.map((s) => s.x), ...props.spots.map((s) => s.x)]
  const ys = [y0, y1, ...held.map((s) => s.y), ...props.spots.map((s) => s.y)]
  const pad = (props.small ? 0.02 : props.notes.length || props.corners ? 0.085 : 0.055) * Math.max(x1 - x0, y1 - y0)
  const left = Math.min(...xs) - pad
  const right = Math.max(...xs) + pad
  const front = Math.min(...ys) - pad
  const back = Math.max(...ys) + pad
  return { left, right, front, back, width: right - left, height: back - front }
})
// mm of the bed in a pixel
const unit = computed(() => (width.value > 0 && height.value > 0 ? Math.max(box.value.width / width.value, box.value.height / height.value) : 0.5))
const X = (x: number): number => x - box.value.left
const Y = (y: number): number => box.value.back - y
const picture = computed(() => (props.relief ? landscape(props.relief, props.bed, props.small || props.spots.length > 64 ? [] : props.spots) : null))
const round = (v: number): string => v.toFixed(2)
const ring = (points: Point[]): string => `M${points.map(([x, y]) => `${round(X(x))},${round(Y(y))}`).join('L')}Z`
const shape = (polygons: Point[][][]): string => polygons.flat().map(ring).join('')
const lines = (rings: Point[][]): string => rings.map(ring).join('')

function tint(from: number | null, to: number | null): string {
  const { step } = props.relief!
  const limit = props.limit || props.relief!.limit
  const middle = from === null ? (to ?? 0) - step / 2 : from + step / 2
  return palette.value.tint(middle / limit)
}

const edge = computed(() => ring(props.outline.map(({ x, y }): Point => [x, y])))
const beyond = computed(() => {
  if (props.outline.length < 3) return ''
  const { x_min, x_max, y_min, y_max } = props.bed
  return ring([[x_min, y_min], [x_max, y_min], [x_max, y_max], [x_min, y_max]]) + edge.value
})
const blind = computed(() => {
  if (!props.relief || !props.unknown.length) return []
  const { columns, rows } = props.relief
  const { x_min, x_max, y_min, y_max } = props.bed
  const w = (x_max - x_min) / (columns - 1)
  const h = (y_max - y_min) / (rows - 1)
  return props.unknown.map(([row, from, to]) => ({ x: X(x_min + (from! - 0.5) * w), y: Y(y_min + (row! + 0.5) * h), width: (to! - from!) * w, height: h }))
})
const numbers = computed(() => props.spots.length <= 64 && !props.small)
const marks = computed(() => (props.spots.length <= 900 ? props.spots : []))
const textSize = computed(() => unit.value * 12.5)

interface Reading { x: number; y: number; text: string }
const reading = ref<Reading | null>(null)
const cursor = ref<Point | null>(null)

function place(event: { clientX: number; clientY: number }): Point {
  const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.value!.getScreenCTM()!.inverse())
  return [box.value.left + at.x, box.value.back - at.y]
}
function read([x, y]: Point): void {
  if (!props.relief || props.small) return
  const height = readAt(props.relief, props.bed, x, y)
  reading.value = height === null ? null : { x, y, text: `x ${x.toFixed(0)}  y ${y.toFixed(0)}: ${figure(height, true)} mm` }
}
function click(event: MouseEvent): void {
  const at = place(event)
  if (props.pickable) emit('pick', Math.round(at[0] * 10) / 10, Math.round(at[1] * 10) / 10)
  read(at)
}
function grab(name: string, event: PointerEvent): void {
  if (!props.movable) return
  event.stopPropagation()
  dragging.value = name
  svg.value!.setPointerCapture(event.pointerId)
}
function drag(event: PointerEvent): void {
  if (dragging.value === null) return read(place(event))
  const { x_min, x_max, y_min, y_max } = props.bed.plate
  const [x, y] = place(event)
  emit('move', dragging.value, Math.round(Math.min(Math.max(x, x_min), x_max)), Math.round(Math.min(Math.max(y, y_min), y_max)))
}
function nudge(post: { name: string; x: number; y: number }, event: KeyboardEvent): void {
  const way = ARROWS[event.key]
  if (!way || !props.movable) return
  event.preventDefault()
  event.stopPropagation()
  const step = event.shiftKey ? 10 : 1
  emit('move', post.name, post.x + way[0] * step, post.y + way[1] * step)
}
const ARROWS: Record<string, Point> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }
function key(event: KeyboardEvent): void {
  const way = ARROWS[event.key]
  if (!way || props.small || !props.relief) return
  event.preventDefault()
  const { x_min, x_max, y_min, y_max } = props.bed
  const step = (x_max - x_min) / 20
  const [x, y] = cursor.value ?? [(x_min + x_max) / 2, (y_min + y_max) / 2]
  cursor.value = [Math.min(x_max, Math.max(x_min, x + way[0] * step)), Math.min(y_max, Math.max(y_min, y + way[1] * step))]
  read(cursor.value)
}
const CORNERS = computed(() => {
  const { x_min, x_max, y_min, y_max } = props.bed
  return [
    { name: 'front left', x: x_min, y: y_min, anchor: 'start', dy: -1 },
    { name: 'front right', x: x_max, y: y_min, anchor: 'end', dy: -1 },
    { name: 'back right', x: x_max, y: y_max, anchor: 'end', dy: 1 },
    { name: 'back left', x: x_min, y: y_max, anchor: 'start', dy: 1 },
  ]
})
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
    <defs>
      <clipPath :id="clip">
        <rect :x="X(bed.x_min)" :y="Y(bed.y_max)" :width="bed.x_max - bed.x_min" :height="bed.y_max - bed.y_min" />
      </clipPath>
      <pattern :id="hatch" :width="unit * 7" :height="unit * 7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <line x1="0" y1="0" x2="0" :y2="unit * 7" :stroke="palette.halo" :stroke-width="unit * 4" stroke-opacity="0.55" />
      </pattern>
      <pattern :id="barred" :width="unit * 6" :height="unit * 6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <rect :width="unit * 6" :height="unit * 6" :fill="palette.plate" />
        <line x1="0" y1="0" x2="0" :y2="unit * 6" :stroke="palette.post" :stroke-width="unit * 3" />
      </pattern>
      <pattern :id="unsure" :width="unit * 9" :height="unit * 9" patternUnits="userSpaceOnUse" patternTransform="rotate(-45)">
        <line x1="0" y1="0" x2="0" :y2="unit * 9" :stroke="palette.ink" :stroke-width="unit * 2.4" stroke-opacity="0.45" />
      </pattern>
    </defs>
    <rect
      :x="X(bed.plate.x_min)" :y="Y(bed.plate.y_max)" :width="bed.plate.x_max - bed.plate.x_min" :height="bed.plate.y_max - bed.plate.y_min"
      :rx="unit * 5" :fill="palette.plate" :stroke="palette.faint" :stroke-width="unit"
    />
    <g :clip-path="`url(#${clip})`">
      <template v-if="picture && relief">
        <rect
          :x="X(bed.x_min)" :y="Y(bed.y_max)" :width="bed.x_max - bed.x_min" :height="bed.y_max - bed.y_min"
          :fill="tint(null, picture.bands[0]!.to)"
        />
        <path
          v-for="band in picture.bands.slice(1)" :key="`b${band.from}`"
          :d="shape(band.polygons)" :fill="tint(band.from, band.to)" fill-rule="evenodd"
        />
        <path v-if="beyond && !small" :d="beyond" fill-rule="evenodd" :fill="`url(#${hatch})`" />
        <template v-if="!small"><rect v-for="(cell, i) in blind" :key="`u${i}`" v-bind="cell" :fill="palette.plate" fill-opacity="0.55" /><rect v-for="(cell, i) in blind" :key="`h${i}`" v-bind="cell" :fill="`url(#${unsure})`" /></template>
        <path
          v-for="line in picture.lines" :key="`l${line.level}`"
          :d="lines(line.rings)" fill="none" :stroke="palette.ink"
          :stroke-width="unit * (line.level === 0 ? 1.8 : small ? 0.7 : 1)" :stroke-opacity="line.level === 0 ? 0.95 : 0.62"
          :stroke-dasharray="line.level < 0 ? `${unit * 5} ${unit * 3}` : undefined"
        />
        <path v-if="beyond && !small" :d="edge" fill="none" :stroke="palette.faint" :stroke-width="unit" :stroke-dasharray="`${unit * 1.5} ${unit * 3}`" />
      </template>
      <rect v-else :x="X(bed.x_min)" :y="Y(bed.y_max)" :width="bed.x_max - bed.x_min" :height="bed.y_max - bed.y_min" :fill="palette.tint(0)" />
    </g>
    <rect
      :x="X(bed.x_min)" :y="Y(bed.y_max)" :width="bed.x_max - bed.x_min" :height="bed.y_max - bed.y_min"
      fill="none" :stroke="palette.ink" :stroke-width="unit * 1.2"
    />
    <template v-if="picture && !small">
      <text
        v-for="line in picture.lines.filter((l) => l.label)" :key="`t${line.level}`"
        :transform="`translate(${round(X(line.label!.at[0]))} ${round(Y(line.label!.at[1]))}) rotate(${round(-line.label!.angle)})`"
        text-anchor="middle" dominant-baseline="central" :font-size="textSize * 0.92" font-style="italic" :fill="palette.ink"
        :stroke="palette.halo" :stroke-width="unit * 3.5" paint-order="stroke" stroke-linejoin="round"
      >{{ figure(line.level, true) }}</text>
    </template>
    <rect
      v-if="reach && !small" :x="X(reach.x_min)" :y="Y(reach.y_max)" :width="reach.x_max - reach.x_min" :height="reach.y_max - reach.y_min"
      fill="none" :stroke="palette.mark" :stroke-width="unit * 1.4" :stroke-dasharray="`${unit * 7} ${unit * 5}`"
    />
    <rect
      v-for="one in bed.keep_off" :key="`k${one.name}`" :x="X(one.x_min)" :y="Y(one.y_max)" :width="one.x_max - one.x_min" :height="one.y_max - one.y_min"
      :fill="`url(#${barred})`" :stroke="palette.post" :stroke-width="unit * (small ? 0.8 : 1.4)"
    ><title>{{ one.name }}: nothing goes there</title></rect>
    <g
      v-for="pad in pads" :key="`p${pad.name}`" :class="{ movable }" :tabindex="movable ? 0 : undefined" :role="movable ? 'button' : undefined"
      :aria-label="movable ? `${pad.name} pad at x ${pad.x}, y ${pad.y}; arrow keys move it` : undefined" @pointerdown="grab(pad.name, $event)" @keydown="nudge(pad, $event)"
    >
      <circle v-if="movable" :cx="X(pad.x)" :cy="Y(pad.y)" :r="unit * 20" fill="transparent" />
      <ellipse :cx="X(pad.x)" :cy="Y(pad.y)" :rx="unit * (small ? 4 : 9)" :ry="unit * (small ? 2.4 : 5.5)" :fill="palette.ground" :stroke="palette.post" :stroke-width="unit * (small ? 1.4 : 2.4)" />
    </g>
    <g
      v-for="screw in screws" :key="screw.name" :class="{ movable }" :tabindex="movable ? 0 : undefined" :role="movable ? 'button' : undefined"
      :aria-label="movable ? `${screw.name} screw at x ${screw.x}, y ${screw.y}; arrow keys move it` : undefined" @pointerdown="grab(screw.name, $event)" @keydown="nudge(screw, $event)"
    >
      <circle v-if="movable" :cx="X(screw.x)" :cy="Y(screw.y)" :r="unit * 20" fill="transparent" />
      <rect
        :x="X(screw.x) - unit * (small ? 3 : 6)" :y="Y(screw.y) - unit * (small ? 3 : 6)"
        :width="unit * (small ? 6 : 12)" :height="unit * (small ? 6 : 12)" :rx="unit * 2"
        :fill="palette.ground" :stroke="palette.post" :stroke-width="unit * (small ? 1.4 : 2.4)"
      />
      <circle v-if="!small" :cx="X(screw.x)" :cy="Y(screw.y)" :r="unit * 2" :fill="palette.post" />
    </g>
    <template v-if="!small">
      <g
        v-for="(spot, i) in marks" :key="`s${i}`"
        :class="{ spot: pickable }" @click="pickable && ($event.stopPropagation(), emit('spot', i))"
      >
        <circle v-if="pickable" :cx="X(spot.x)" :cy="Y(spot.y)" :r="unit * 16" fill="transparent" data-screen />
        <circle
          v-if="spot.current" :cx="X(spot.x)" :cy="Y(spot.y)" :r="unit * 11"
          fill="none" :stroke="palette.mark" :stroke-width="unit * 3"
        />
        <circle
          :cx="X(spot.x)" :cy="Y(spot.y)" :r="unit * (numbers ? 2.6 : 1.4)"
          :fill="spot.text ? palette.ink : palette.halo" :stroke="palette.ink" :stroke-width="unit"
        />
        <text
          v-if="numbers && spot.text" :x="X(spot.x)" :y="Y(spot.y) - unit * 7" text-anchor="middle" :font-size="textSize"
          font-weight="650" :fill="palette.ink" :stroke="palette.halo" :stroke-width="unit * 3.5" paint-order="stroke" stroke-linejoin="round"
        >{{ spot.text }}</text>
      </g>
    </template>
    <g v-for="(one, i) in edges" :key="`e${i}`">
      <line :x1="X(one.from.x)" :y1="Y(one.from.y)" :x2="X(one.to.x)" :y2="Y(one.to.y)" :stroke="palette.halo" :stroke-width="unit * 7" stroke-linecap="round" stroke-opacity="0.75" />
      <line :x1="X(one.from.x)" :y1="Y(one.from.y)" :x2="X(one.to.x)" :y2="Y(one.to.y)" :stroke="palette.mark" :stroke-width="unit * 2.4" stroke-linecap="round" />
      <text
        v-if="one.text" :x="X((one.from.x * 2 + one.to.x) / 3)" :y="Y((one.from.y * 2 + one.to.y) / 3) - unit * 8" text-anchor="middle" :font-size="textSize" font-weight="650"
        :fill="palette.mark" :stroke="palette.halo" :stroke-width="unit * 4" paint-order="stroke" stroke-linejoin="round"
      >{{ one.text }}</text>
    </g>
    <g v-for="one in crossed.filter((c) => !c.counts)" :key="`c${one.x},${one.y}`" :stroke="palette.mark" :stroke-width="unit * 2.6">
      <line :x1="X(one.x) - unit * 7" :x2="X(one.x) + unit * 7" :y1="Y(one.y) - unit * 7" :y2="Y(one.y) + unit * 7" />
      <line :x1="X(one.x) - unit * 7" :x2="X(one.x) + unit * 7" :y1="Y(one.y) + unit * 7" :y2="Y(one.y) - unit * 7" />
    </g>
    <g v-for="note in notes" :key="`n${note.name}`">
      <template v-for="screw in [...screws, ...pads].filter((s) => s.name === note.name)" :key="screw.name">
        <text
          :x="Math.min(Math.max(X(screw.x), unit * 52), box.width - unit * 52)"
          :y="screw.y > (bed.y_min + bed.y_max) / 2 ? Y(Math.max(bed.plate.y_max, screw.y)) - unit * 8 : Y(Math.min(bed.plate.y_min, screw.y)) + unit * 19"
          text-anchor="middle" :font-size="textSize * 1.12" font-weight="700" :fill="palette.mark"
          :stroke="palette.halo" :stroke-width="unit * 4" paint-order="stroke" stroke-linejoin="round"
        >{{ note.text }}</text>
      </template>
    </g>
    <template v-if="corners">
      <text
        v-for="corner in CORNERS" :key="corner.name" :x="X(corner.x)"
        :y="corner.dy > 0 ? Y(bed.plate.y_max) - unit * 8 : Y(bed.plate.y_min) + unit * 19" :text-anchor="corner.anchor" :font-size="textSize * 1.05" font-weight="700"
        :fill="palette.ink" :stroke="palette.halo" :stroke-width="unit * 4" paint-order="stroke" stroke-linejoin="round"
      >{{ corner.name }}</text>
    </template>
    <template v-if="!small">
      <text :x="X(bed.x_min + (bed.x_max - bed.x_min) * 0.33)" :y="box.height - unit * 5" text-anchor="middle" :font-size="textSize" :fill="palette.faint">front</text>
      <text :x="X(bed.x_min + (bed.x_max - bed.x_min) * 0.33)" :y="unit * 13" text-anchor="middle" :font-size="textSize" :fill="palette.faint">back</text>
    </template>
    <g v-if="reading" data-screen pointer-events="none">
      <circle :cx="X(reading.x)" :cy="Y(reading.y)" :r="unit * 4" fill="none" :stroke="palette.mark" :stroke-width="unit * 2" />
      <g :transform="`translate(${round(Math.min(Math.max(X(reading.x), unit * 92), box.width - unit * 92))} ${round(Y(reading.y) > unit * 60 ? Y(reading.y) - unit * 26 : Y(reading.y) + unit * 30)})`">
        <rect :x="-unit * 88" :y="-unit * 14" :width="unit * 176" :height="unit * 26" :rx="unit * 4" :fill="palette.ink" />
        <text text-anchor="middle" :y="unit * 4" :font-size="unit * 14" font-weight="650" :fill="palette.halo">{{ reading.text }}</text>
      </g>
    </g>
  </svg>
  <span v-if="!small && relief" class="visually-hidden" aria-live="polite">{{ cursor && reading ? reading.text : '' }}</span>
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
.spot {
  cursor: pointer;
}
.movable {
  cursor: grab;
  touch-action: none;
}
</style>
