<script setup lang="ts">
// The first layer's walls on the bed, from above; a tap says where something happened.
import { useElementSize } from '@vueuse/core'
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import { FONT, palette } from './palette'

const props = defineProps<{
  bed: Schemas['Bed']
  /** Places x, y by turns, mm. */
  paths: number[][]
  places: Schemas['XY'][]
  label: string
  pickable?: boolean
}>()
const emit = defineEmits<{ pick: [place: Schemas['XY']] }>()
const svg = ref<SVGSVGElement | null>(null)
const { width } = useElementSize(svg)
const box = computed(() => {
  const at = props.bed.plate
  const pad = 0.03 * Math.max(at.x_max - at.x_min, at.y_max - at.y_min)
  return {
    left: at.x_min - pad,
    front: at.y_min - pad,
    width: at.x_max - at.x_min + 2 * pad,
    height: at.y_max - at.y_min + 2 * pad,
  }
})
const unit = computed(() => box.value.width / Math.max(width.value, 1))
const Y = (y: number): number => 2 * box.value.front + box.value.height - y
const drawn = computed(() =>
  props.paths
    .map((path) =>
      path.reduce(
        (text, value, i) =>
          text + (i % 2 ? ` ${Y(value).toFixed(2)}` : `${i ? 'L' : 'M'}${value.toFixed(2)}`),
        '',
      ),
    )
    .join(''),
)
const within = (value: number, low: number, high: number): number =>
  Math.round(10 * Math.min(Math.max(value, low), high)) / 10
function tap(event: MouseEvent): void {
  if (!props.pickable || !svg.value) return
  const at = svg.value.getBoundingClientRect()
  const scale = box.value.width / at.width
  const { x_min, x_max, y_min, y_max } = props.bed
  emit('pick', {
    x: within(box.value.left + (event.clientX - at.left) * scale, x_min, x_max),
    y: within(Y(box.value.front + (event.clientY - at.top) * scale), y_min, y_max),
  })
}
const STEP = 5
const MOVES: Record<string, [number, number]> = {
  ArrowLeft: [-STEP, 0],
  ArrowRight: [STEP, 0],
  ArrowUp: [0, STEP],
  ArrowDown: [0, -STEP],
}
/** By keyboard the mark begins in the middle and walks in steps. */
function key(event: KeyboardEvent): void {
  const move = MOVES[event.key]
  if (!props.pickable || (!move && event.key !== 'Enter')) return
  event.preventDefault()
  const { x_min, x_max, y_min, y_max } = props.bed
  const at = props.places[0] ?? { x: (x_min + x_max) / 2, y: (y_min + y_max) / 2 }
  const [dx, dy] = move && props.places.length ? move : [0, 0]
  emit('pick', { x: within(at.x + dx, x_min, x_max), y: within(at.y + dy, y_min, y_max) })
}
</script>

<template>
  <svg
    ref="svg"
    class="path"
    :class="{ pickable }"
    :role="pickable ? 'application' : 'img'"
    :tabindex="pickable ? 0 : undefined"
    :data-own-keys="pickable ? '' : undefined"
    :aria-label="label"
    :viewBox="`${box.left} ${box.front} ${box.width} ${box.height}`"
    :style="{ aspectRatio: `${box.width} / ${box.height}`, maxWidth: `${(380 * box.width) / box.height}px` }"
    :font-family="FONT"
    @click="tap"
    @keydown="key"
  >
    <rect
      :x="bed.x_min"
      :y="Y(bed.y_max)"
      :width="bed.x_max - bed.x_min"
      :height="bed.y_max - bed.y_min"
      :fill="palette.plate"
      :stroke="palette.ink"
      :stroke-width="unit * 1.4"
    />
    <path :d="drawn" fill="none" :stroke="palette.ink" :stroke-width="unit * 1.1" stroke-linejoin="round" />
    <g
      v-for="(place, i) in places"
      :key="i"
      :transform="`translate(${place.x} ${Y(place.y)})`"
      fill="none"
      :stroke="palette.mark"
    >
      <circle :r="unit * 7" :stroke="palette.halo" :stroke-width="unit * 5" />
      <circle :r="unit * 7" :stroke-width="unit * 2.4" />
    </g>
  </svg>
</template>

<style scoped>
.path {
  display: block;
  width: 100%;
}
.pickable {
  cursor: crosshair;
  touch-action: manipulation;
}
</style>
