<script setup lang="ts">
// Tints and contour lines of a relief, and where nobody knows.
import { computed, useId } from 'vue'
import type { Schemas } from '@/api/client'
import { figure } from '@/shell/format'
import { round, useCanvas } from '../canvas'
import { landscape, type Point } from '../contours'
import { palette } from '../palette'
import BedRect from './BedRect.vue'
import HatchPattern from './HatchPattern.vue'
import MapText from './MapText.vue'

const props = defineProps<{
  relief: Schemas['Relief'] | null
  /** Height of the deepest tint, mm; 0: the relief's own. */
  limit: number
  /** Grid points that are not known: row, first column, one past the last. */
  unknown: number[][]
  /** Where readings lie, which labels keep clear of. */
  spots: { x: number; y: number }[]
  /** The border of what was measured. */
  outline: { x: number; y: number }[]
}>()
const { bed, unit, small, X, Y, ring, shape } = useCanvas()
const [clip, hatch, unsure] = [useId(), useId(), useId()]
const picture = computed(() => (props.relief ? landscape(props.relief, bed.value, props.spots) : null))
const lines = (rings: Point[][]): string => rings.map(ring).join('')

function tint(from: number | null, to: number | null): string {
  const { step } = props.relief!
  const limit = props.limit || props.relief!.limit
  const middle = from === null ? (to ?? 0) - step / 2 : from + step / 2
  return palette.value.tint(middle / limit)
}
const edge = computed(() => ring(props.outline.map(({ x, y }): Point => [x, y])))
const beyond = computed(() => {
  if (props.outline.length < 3 || small.value) return ''
  const { x_min, x_max, y_min, y_max } = bed.value
  const whole: Point[] = [
    [x_min, y_min],
    [x_max, y_min],
    [x_max, y_max],
    [x_min, y_max],
  ]
  return ring(whole) + edge.value
})
const blind = computed(() => {
  if (!props.relief || small.value) return []
  const { columns, rows } = props.relief
  const { x_min, x_max, y_min, y_max } = bed.value
  const [w, h] = [(x_max - x_min) / (columns - 1), (y_max - y_min) / (rows - 1)]
  return props.unknown.map(([row, from, to]) => ({
    x: X(x_min + (from! - 0.5) * w),
    y: Y(y_min + (row! + 0.5) * h),
    width: (to! - from!) * w,
    height: h,
  }))
})
const labels = computed(() =>
  small.value
    ? []
    : (picture.value?.lines.flatMap(({ level, label }) => (label ? [{ level, ...label }] : [])) ?? []),
)
</script>

<template>
  <defs>
    <clipPath :id="clip"><BedRect :area="bed" /></clipPath>
    <HatchPattern :id="hatch" :step="7" :width="4" :colour="palette.halo" :opacity="0.55" />
    <HatchPattern :id="unsure" :step="9" :width="2.4" :angle="-45" :colour="palette.ink" :opacity="0.45" />
  </defs>
  <g v-if="picture && relief" :clip-path="`url(#${clip})`">
    <BedRect :area="bed" :fill="tint(null, picture.bands[0]!.to)" />
    <path
      v-for="band in picture.bands.slice(1)"
      :key="`b${band.from}`"
      :d="shape(band.polygons)"
      :fill="tint(band.from, band.to)"
      fill-rule="evenodd"
    />
    <path v-if="beyond" :d="beyond" fill-rule="evenodd" :fill="`url(#${hatch})`" />
    <template v-for="(cell, i) in blind" :key="`u${i}`">
      <rect v-bind="cell" :fill="palette.plate" fill-opacity="0.55" />
      <rect v-bind="cell" :fill="`url(#${unsure})`" />
    </template>
    <path
      v-for="line in picture.lines"
      :key="`l${line.level}`"
      :d="lines(line.rings)"
      fill="none"
      :stroke="palette.ink"
      :stroke-width="unit * (line.level === 0 ? 1.8 : small ? 0.7 : 1)"
      :stroke-opacity="line.level === 0 ? 0.95 : 0.62"
      :stroke-dasharray="line.level < 0 ? `${unit * 5} ${unit * 3}` : undefined"
    />
    <path
      v-if="beyond"
      :d="edge"
      fill="none"
      :stroke="palette.faint"
      :stroke-width="unit"
      :stroke-dasharray="`${unit * 1.5} ${unit * 3}`"
    />
  </g>
  <BedRect v-else :area="bed" :fill="palette.tint(0)" />
  <BedRect :area="bed" fill="none" :stroke="palette.ink" :stroke-width="unit * 1.2" />
  <MapText
    v-for="label in labels"
    :key="`t${label.level}`"
    :transform="`translate(${round(X(label.at[0]))} ${round(Y(label.at[1]))}) rotate(${round(-label.angle)})`"
    dominant-baseline="central"
    :size="0.92"
    :weight="400"
    font-style="italic"
  >
    {{ figure(label.level, true) }}
  </MapText>
</template>
