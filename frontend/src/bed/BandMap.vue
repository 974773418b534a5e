<script setup lang="ts">
// The first layer over the bed, in bands from a tip that scrapes to a thread that lets go.
import { computed, ref, useId } from 'vue'
import type { Schemas } from '@/api/client'
import { figure } from '@/shell/format'
import { boxAround, provideCanvas } from './canvas'
import { landscape } from './contours'
import BedRect from './layers/BedRect.vue'
import MapText from './layers/MapText.vue'
import PlateLayer from './layers/PlateLayer.vue'
import SideLayer from './layers/SideLayer.vue'
import { BAND_TINT, FONT, palette } from './palette'

const props = defineProps<{
  bed: Schemas['Bed']
  found: Schemas['FirstLayerOut']
  label: string
  draft?: boolean
}>()
const clip = useId()
const svg = ref<SVGSVGElement | null>(null)
const box = computed(() => boxAround(props.bed, [], 0.06))
const { ready, unit, X, Y, shape } = provideCanvas(
  svg,
  () => props.bed,
  box,
  () => false,
)
const picture = computed(() => {
  const { columns, rows, gaps_um, limits } = props.found
  return landscape(
    { columns, rows, heights_um: gaps_um, levels: limits, datum: 0, low: 0, high: 0, step: 0.1, limit: 1 },
    props.bed,
  )
})
// lines to and fro over the whole bed, drawn beneath the other bands
const hatch = computed(() => {
  const { x_min, x_max, y_min, y_max } = props.bed
  const [w, d, step] = [x_max - x_min, y_max - y_min, unit.value * 13]
  let path = ''
  for (let c = step / 2; c < w + d; c += step) {
    const [low, high] = [Math.max(0, c - d), Math.min(w, c)]
    const at = (x: number, y: number): string => `${X(x).toFixed(1)},${Y(y_min + c - y).toFixed(1)}`
    path += `M${at(x_min + low, low)}L${at(x_min + high, high)}`
    path += `M${at(x_max - low, low)}L${at(x_max - high, high)}`
  }
  return path
})
const fill = (at: number): string => palette.value.tint(BAND_TINT[props.found.bands[at]!.band])
</script>

<template>
  <svg
    ref="svg"
    class="bands"
    :class="{ draft }"
    role="img"
    :aria-label="label"
    :viewBox="`0 0 ${box.width.toFixed(1)} ${box.height.toFixed(1)}`"
    :font-family="FONT"
  >
    <template v-if="ready">
      <defs>
        <clipPath :id="clip"><BedRect :area="bed" /></clipPath>
      </defs>
      <PlateLayer />
      <BedRect :area="bed" :fill="fill(0)" />
      <path
        v-if="found.touches"
        :d="hatch"
        :clip-path="draft ? undefined : `url(#${clip})`"
        fill="none"
        :stroke="palette.halo"
        :stroke-width="unit * 3"
      />
      <path
        v-for="(band, i) in picture.bands.slice(1)"
        :key="i"
        :clip-path="draft ? undefined : `url(#${clip})`"
        :d="shape(band.polygons)"
        :fill="fill(i + 1)"
        fill-rule="evenodd"
        :stroke="draft ? 'none' : palette.ink"
        :stroke-width="unit * 0.9"
        stroke-opacity="0.55"
      />
      <BedRect :area="bed" fill="none" :stroke="palette.ink" :stroke-width="unit * 1.4" />
      <g v-for="(place, i) in found.places" :key="i" :transform="`translate(${X(place.x)} ${Y(place.y)})`">
        <circle :r="unit * 6" :fill="palette.halo" :stroke="palette.ink" :stroke-width="unit * 2" />
        <MapText
          :x="place.x > (bed.x_min + bed.x_max) / 2 ? -unit * 10 : unit * 10"
          :y="place.y > (bed.y_min + bed.y_max) / 2 ? unit * 17 : -unit * 8"
          :text-anchor="place.x > (bed.x_min + bed.x_max) / 2 ? 'end' : 'start'"
          :size="1.04"
        >
          {{ i ? 'farthest' : 'closest' }} {{ figure(place.laid.gap) }}
        </MapText>
      </g>
      <SideLayer />
    </template>
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
