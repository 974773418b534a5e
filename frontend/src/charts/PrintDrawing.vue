<script setup lang="ts">
// A test print on the bed: where plastic goes, or where the tip walks and stops.  Patches can be judged on it.
import { useElementSize } from '@vueuse/core'
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import { FONT, palette } from '@/bed/palette'

export interface Patch {
  number: number
  x: number
  y: number
  size: number
  round: boolean
  /** On the scale of tints, none while it is not judged. */
  tint?: number
  /** Said to those who do not see it. */
  label?: string
  letter?: string
}
const props = withDefaults(
  defineProps<{
    bed: Schemas['Bed']
    patches: Patch[]
    prime?: Schemas['XY'][]
    walk?: Schemas['XY'][]
    label: string
    pickable?: boolean
  }>(),
  { prime: () => [], walk: () => [] },
)
const emit = defineEmits<{ pick: [number: number]; key: [number: number, key: string] }>()
const svg = ref<SVGSVGElement | null>(null)
const { width, height } = useElementSize(svg)
const edges = computed(() => {
  const { x_min: left, x_max: right, y_min: front, y_max: back } = props.bed.plate
  const pad = 0.06 * Math.max(right - left, back - front)
  return { left: left - pad, back: back + pad, width: right - left + 2 * pad, height: back - front + 2 * pad }
})
const unit = computed(() =>
  width.value > 0 && height.value > 0
    ? Math.max(edges.value.width / width.value, edges.value.height / height.value)
    : 0.5,
)
const X = (x: number): number => x - edges.value.left
const Y = (y: number): number => edges.value.back - y
const line = (points: Schemas['XY'][]): string =>
  points.map(({ x, y }) => `${X(x).toFixed(1)},${Y(y).toFixed(1)}`).join(' ')
const stops = computed(() => props.patches.filter((p) => p.size === 0))
const laid = computed(() => props.patches.filter((p) => p.size > 0))
const fill = (p: Patch): string => (p.tint === undefined ? palette.value.ground : palette.value.tint(p.tint))
// on the deepest tints the lettering must be light
const text = (p: Patch): string => (Math.abs(p.tint ?? 0) > 0.7 ? palette.value.ground : palette.value.ink)
const size = (p: Patch): number => Math.min(unit.value * 14, p.size * 0.6)
function press(p: Patch, event: KeyboardEvent): void {
  if (!props.pickable) return
  if (event.key === 'Enter' || event.key === ' ') {
    event.preventDefault()
    emit('pick', p.number)
  } else if (/^[1-5]$/.test(event.key)) {
    event.stopPropagation()
    emit('key', p.number, event.key)
  }
}
</script>

<template>
  <svg
    ref="svg"
    class="print"
    :role="pickable ? 'group' : 'img'"
    :aria-label="label"
    :viewBox="`0 0 ${edges.width.toFixed(1)} ${edges.height.toFixed(1)}`"
    :font-family="FONT"
  >
    <rect
      :x="X(bed.plate.x_min)"
      :y="Y(bed.plate.y_max)"
      :width="bed.plate.x_max - bed.plate.x_min"
      :height="bed.plate.y_max - bed.plate.y_min"
      :rx="unit * 5"
      :fill="palette.plate"
      :stroke="palette.faint"
      :stroke-width="unit"
    />
    <rect
      :x="X(bed.x_min)"
      :y="Y(bed.y_max)"
      :width="bed.x_max - bed.x_min"
      :height="bed.y_max - bed.y_min"
      fill="none"
      :stroke="palette.faint"
      :stroke-width="unit"
      :stroke-dasharray="`${unit * 5} ${unit * 4}`"
    />
    <polyline
      v-if="prime.length"
      :points="line(prime)"
      fill="none"
      :stroke="palette.ink"
      :stroke-width="unit * 2.5"
    />
    <polyline
      v-if="walk.length > 1"
      :points="line(walk)"
      fill="none"
      :stroke="palette.ink"
      :stroke-width="unit * 2"
      :stroke-dasharray="stops.length ? `${unit * 5} ${unit * 5}` : undefined"
      stroke-linejoin="round"
    />
    <g
      v-for="p in laid"
      :key="p.number"
      class="patch"
      :class="{ pickable }"
      :role="pickable ? 'button' : undefined"
      :tabindex="pickable ? 0 : undefined"
      :aria-label="pickable ? p.label : undefined"
      @click="pickable && $emit('pick', p.number)"
      @keydown="press(p, $event)"
    >
      <circle
        v-if="pickable"
        :cx="X(p.x)"
        :cy="Y(p.y)"
        :r="Math.max(p.size / 2, unit * 18)"
        fill="transparent"
      />
      <circle
        v-if="p.round"
        class="shape"
        :cx="X(p.x)"
        :cy="Y(p.y)"
        :r="Math.max(p.size / 2, unit * 11)"
        :fill="fill(p)"
        :stroke="palette.ink"
        :stroke-width="unit * 1.5"
      />
      <rect
        v-else
        class="shape"
        :x="X(p.x - p.size / 2)"
        :y="Y(p.y + p.size / 2)"
        :width="p.size"
        :height="p.size"
        :fill="fill(p)"
        :stroke="palette.ink"
        :stroke-width="unit * 1.5"
      />
      <text
        :x="X(p.x)"
        :y="Y(p.y) + size(p) * 0.36"
        text-anchor="middle"
        :font-size="p.round ? unit * 12 : size(p)"
        font-weight="650"
        :fill="text(p)"
      >
        {{ p.letter ?? p.number }}
      </text>
    </g>
    <g v-for="p in stops" :key="p.number" :transform="`translate(${X(p.x)} ${Y(p.y)})`">
      <circle :r="unit * 11" :fill="palette.ground" :stroke="palette.ink" :stroke-width="unit * 2" />
      <text :y="unit * 4.5" text-anchor="middle" :font-size="unit * 13" font-weight="650" :fill="palette.ink">
        {{ p.number }}
      </text>
    </g>
    <text
      :x="edges.width / 2"
      :y="unit * 14"
      text-anchor="middle"
      :font-size="unit * 12.5"
      :fill="palette.faint"
    >
      back
    </text>
    <text
      :x="edges.width / 2"
      :y="edges.height - unit * 6"
      text-anchor="middle"
      :font-size="unit * 12.5"
      :fill="palette.faint"
    >
      front
    </text>
  </svg>
</template>

<style scoped>
.print {
  display: block;
  width: 100%;
  max-height: 420px;
}
.pickable {
  cursor: pointer;
}
.patch:focus-visible {
  outline: none;
}
.patch:focus-visible .shape {
  stroke: var(--accent);
  stroke-width: 2.5;
  paint-order: stroke;
}
</style>
