<script setup lang="ts">
// How good a print would be with its middle at each place of the bed, and where it would go.
import { useElementSize } from '@vueuse/core'
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import { FONT, palette } from './palette'

const props = defineProps<{
  bed: Schemas['Bed']
  found: Schemas['FilePlacesOut']
  /** Degrees to the left of the map that is shown. */
  angle: number
  label: string
}>()
const svg = ref<SVGSVGElement | null>(null)
const { width } = useElementSize(svg)
const box = computed(() => {
  const at = props.bed.plate
  const pad = 0.04 * Math.max(at.x_max - at.x_min, at.y_max - at.y_min)
  return {
    left: at.x_min - pad,
    front: at.y_min - pad,
    width: at.x_max - at.x_min + 2 * pad,
    height: at.y_max - at.y_min + 2 * pad,
  }
})
const unit = computed(() => box.value.width / Math.max(width.value, 1))
const Y = (y: number): number => 2 * box.value.front + box.value.height - y
const one = computed(
  () => props.found.turns.find((item) => item.angle === props.angle) ?? props.found.turns[0],
)
const STEPS = [100, 90, 75, 50, 25, 0]
/** Good is paper, as in the picture of the lines; the worse, the deeper the blue. */
const tint = (percent: number): string => palette.value.tint(-(1 - percent / 100))
const cells = computed(() => {
  const map = one.value
  if (!map) return []
  // one path for all squares that look alike
  const alike = new Map<number, string>()
  const half = (map.dx[1] ?? map.dx[0]! + 5) - map.dx[0]!
  map.percent.forEach((row, j) =>
    row.forEach((percent, i) => {
      if (percent === null) return
      const step = STEPS.find((least) => percent >= least)!
      const [x, y] = [props.found.middle[0]! + map.dx[i]!, props.found.middle[1]! + map.dy[j]!]
      const path = `M${(x - half / 2).toFixed(1)} ${Y(y - half / 2).toFixed(1)}h${half}v${-half}h${-half}z`
      alike.set(step, (alike.get(step) ?? '') + path)
    }),
  )
  return [...alike].map(([step, path]) => ({ step, path }))
})
const outline = (place: { dx: number; dy: number; angle: number }) => {
  const [x, y] = [props.found.middle[0]! + place.dx, Y(props.found.middle[1]! + place.dy)]
  const [w, d] = [props.found.size[0]!, props.found.size[1]!]
  return { x: x - w / 2, y: y - d / 2, width: w, height: d, transform: `rotate(${-place.angle} ${x} ${y})` }
}
</script>

<template>
  <svg
    ref="svg"
    class="places"
    role="img"
    :aria-label="label"
    :viewBox="`${box.left} ${box.front} ${box.width} ${box.height}`"
    :font-family="FONT"
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
    <path v-for="cell in cells" :key="cell.step" :d="cell.path" :fill="tint(cell.step)" />
    <rect
      v-bind="outline(found.now)"
      fill="none"
      :stroke="palette.ink"
      :stroke-width="unit * 1.2"
      :stroke-dasharray="`${unit * 5} ${unit * 4}`"
    />
    <rect
      v-if="found.best && found.worth"
      v-bind="outline(found.best)"
      fill="none"
      :stroke="palette.ink"
      :stroke-width="unit * 2.4"
    />
  </svg>
</template>

<style scoped>
.places {
  display: block;
  width: 100%;
  max-height: 420px;
}
</style>
