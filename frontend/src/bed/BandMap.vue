<script setup lang="ts">
// The first layer over the bed, in bands from a tip that scrapes to a thread that lets go.
import { useElementSize } from '@vueuse/core'
import { computed, ref, useId } from 'vue'
import type { Schemas } from '@/api/client'
import { figure } from '@/shell/format'
import { landscape, type Point } from './contours'
import { BAND_TINT, FONT, palette } from './palette'

const props = defineProps<{ bed: Schemas['Bed']; found: Schemas['FirstLayerOut']; label: string; draft?: boolean }>()
const clip = useId()
const svg = ref<SVGSVGElement | null>(null)
const { width, height } = useElementSize(svg)
const edges = computed(() => {
  const { x_min: left, x_max: right, y_min: front, y_max: back } = props.bed.plate
  const pad = 0.06 * Math.max(right - left, back - front)
  return { left: left - pad, back: back + pad, width: right - left + 2 * pad, height: back - front + 2 * pad }
})
// mm of the bed in a pixel
const unit = computed(() => (width.value > 0 && height.value > 0 ? Math.max(edges.value.width / width.value, edges.value.height / height.value) : 0.5))
const X = (x: number): number => x - edges.value.left
const Y = (y: number): number => edges.value.back - y
const picture = computed(() => {
  const { columns, rows, gaps_um, limits } = props.found
  return landscape({ columns, rows, heights_um: gaps_um, levels: limits, datum: 0, low: 0, high: 0, step: 0.1, limit: 1 }, props.bed)
})
const ring = (points: Point[]): string => `M${points.map(([x, y]) => `${X(x).toFixed(2)},${Y(y).toFixed(2)}`).join('L')}Z`
const shape = (polygons: Point[][][]): string => polygons.flat().map(ring).join('')
// lines to and fro over the whole bed, drawn beneath the other bands
const hatch = computed(() => {
  const { x_min, x_max, y_min, y_max } = props.bed
  const [w, d, step] = [x_max - x_min, y_max - y_min, unit.value * 13]
  let path = ''
  for (let c = step / 2; c < w + d; c += step) {
    const [low, high] = [Math.max(0, c - d), Math.min(w, c)]
    path += `M${X(x_min + low).toFixed(1)},${Y(y_min + c - low).toFixed(1)}L${X(x_min + high).toFixed(1)},${Y(y_min + c - high).toFixed(1)}M${X(x_max - low).toFixed(1)},${Y(y_min + c - low).toFixed(1)}L${X(x_max - high).toFixed(1)},${Y(y_min + c - high).toFixed(1)}`
  }
  return path
})
const fill = (at: number): string => palette.value.tint(BAND_TINT[props.found.bands[at]!.band])
</script>

<template>
  <svg ref="svg" class="bands" :class="{ draft }" role="img" :aria-label="label" :viewBox="`0 0 ${edges.width.toFixed(1)} ${edges.height.toFixed(1)}`" :font-family="FONT">
    <defs>
      <clipPath :id="clip"><rect :x="X(bed.x_min)" :y="Y(bed.y_max)" :width="bed.x_max - bed.x_min" :height="bed.y_max - bed.y_min" /></clipPath>
    </defs>
    <rect :x="X(bed.plate.x_min)" :y="Y(bed.plate.y_max)" :width="bed.plate.x_max - bed.plate.x_min" :height="bed.plate.y_max - bed.plate.y_min" :rx="unit * 5" :fill="palette.plate" :stroke="palette.faint" :stroke-width="unit" />
    <rect :x="X(bed.x_min)" :y="Y(bed.y_max)" :width="bed.x_max - bed.x_min" :height="bed.y_max - bed.y_min" :fill="fill(0)" />
    <path v-if="found.touches" :d="hatch" :clip-path="draft ? undefined : `url(#${clip})`" fill="none" :stroke="palette.halo" :stroke-width="unit * 3" />
    <path v-for="(band, i) in picture.bands.slice(1)" :clip-path="draft ? undefined : `url(#${clip})`" :key="i" :d="shape(band.polygons)" :fill="fill(i + 1)" fill-rule="evenodd" :stroke="draft ? 'none' : palette.ink" :stroke-width="unit * 0.9" stroke-opacity="0.55" />
    <rect :x="X(bed.x_min)" :y="Y(bed.y_max)" :width="bed.x_max - bed.x_min" :height="bed.y_max - bed.y_min" fill="none" :stroke="palette.ink" :stroke-width="unit * 1.4" />
    <g v-for="(place, i) in found.places" :key="i" :transform="`translate(${X(place.x)} ${Y(place.y)})`">
      <circle :r="unit * 6" :fill="palette.halo" :stroke="palette.ink" :stroke-width="unit * 2" />
      <text :x="place.x > (bed.x_min + bed.x_max) / 2 ? -unit * 10 : unit * 10" :y="place.y > (bed.y_min + bed.y_max) / 2 ? unit * 17 : -unit * 8" :text-anchor="place.x > (bed.x_min + bed.x_max) / 2 ? 'end' : 'start'" :font-size="unit * 13" font-weight="650" :fill="palette.ink" :stroke="palette.halo" :stroke-width="unit * 4" paint-order="stroke">{{ i ? 'farthest' : 'closest' }} {{ figure(place.laid.gap) }}</text>
    </g>
    <text :x="edges.width / 2" :y="unit * 14" text-anchor="middle" :font-size="unit * 12.5" :fill="palette.faint">back</text>
    <text :x="edges.width / 2" :y="edges.height - unit * 8" text-anchor="middle" :font-size="unit * 12.5" :fill="palette.faint">front</text>
  </svg>
</template>

<style scoped>
.bands {
  display: block;
  width: 100%;
  max-height: 460px;
  will-change: transform;
}
.draft path,
.draft rect {
  shape-rendering: crispEdges;
}
</style>
