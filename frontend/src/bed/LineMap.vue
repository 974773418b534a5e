<script setup lang="ts">
// The first layer of a print along its own lines, each at its width in the band it will have.
import { useElementSize } from '@vueuse/core'
import { computed, ref, shallowRef, watch } from 'vue'
import type { Schemas } from '@/api/client'
import { BAND_TINT, FONT, palette } from './palette'
import { bandsAt, type Lines } from './lines'
import { coloursOf, layOut, paint, type Points } from './paint'

const props = defineProps<{
  bed: Schemas['Bed']
  lines: Lines
  shift: number
  label: string
  /** Which roles are drawn, one bit each. */
  shown: number
  /** What is looked at; the whole bed without. */
  near?: { x_min: number; y_min: number; x_max: number; y_max: number } | undefined
  worst?: { x: number; y: number } | undefined
  /** How far a mesh reaches. */
  mesh?: Schemas['AreaOut'] | null | undefined
}>()
const frame = ref<HTMLElement | null>(null)
const canvas = ref<HTMLCanvasElement | null>(null)
const { width } = useElementSize(frame)
const ORDER = ['scrapes', 'crowded', 'close', 'good', 'far', 'loose'] as const
const box = computed(() => {
  const at = props.near ?? props.bed.plate
  const pad = 0.04 * Math.max(at.x_max - at.x_min, at.y_max - at.y_min) + 0.5
  const [left, front] = [at.x_min - pad, at.y_min - pad]
  return { left, front, width: at.x_max - at.x_min + 2 * pad, height: at.y_max - at.y_min + 2 * pad }
})
/** The palette's colours are written as #rrggbb or as rgb(r, g, b). */
const rgb = (text: string): [number, number, number] => {
  const parts = text.startsWith('#')
    ? [1, 3, 5].map((at) => parseInt(text.slice(at, at + 2), 16))
    : text.match(/[\d.]+/g)!.map(Number)
  return [parts[0]! / 255, parts[1]! / 255, parts[2]! / 255]
}
const colours = computed(() => ORDER.map((band) => rgb(palette.value.tint(BAND_TINT[band]))))
const sharp = window.devicePixelRatio || 1
const size = computed(() => {
  const pixels = Math.round(width.value * sharp)
  return [pixels, Math.round((pixels * box.value.height) / box.value.width)] as const
})
/** Fine screens smooth the edges by themselves. */
const fine = sharp < 2 ? 2 : 1
const points = shallowRef<Points | null>(null)
watch(
  [canvas, () => props.lines, () => props.shown, box, size],
  () => {
    const [w, h] = size.value
    if (!canvas.value || !w || !h) return
    points.value = layOut(
      props.lines,
      { left: box.value.left, front: box.value.front, unit: box.value.width / w, width: w, height: h, fine },
      props.shown,
    )
  },
  { flush: 'post' },
)
let bands = new Uint8Array(0)
watch(
  [points, () => props.shift, colours, () => palette.value.plate],
  () => {
    const [here, on] = [points.value, canvas.value]
    const pen = on?.getContext('2d')
    if (!here || !on || !pen) return
    if (on.width !== here.width || on.height !== here.height)
      [on.width, on.height] = [here.width, here.height]
    if (bands.length !== props.lines.count) bands = new Uint8Array(props.lines.count)
    bandsAt(props.lines, props.shift, bands)
    const picture = pen.createImageData(here.width, here.height)
    const [ground, ink] = [rgb(palette.value.plate), rgb(palette.value.ink)]
    const each = coloursOf(props.lines, bands, colours.value, ground, ink)
    paint(here, each, new Uint32Array(picture.data.buffer))
    pen.putImageData(picture, 0, 0)
    on.dataset.drawn = `${props.shift} ${props.shown} ${here.width}`
  },
  { flush: 'post' },
)
const unit = computed(() => box.value.width / Math.max(width.value, 1))
const Y = (y: number): number => box.value.front + box.value.height - y
const keepOff = computed(() => props.bed.keep_off ?? [])
</script>

<template>
  <div
    ref="frame"
    class="lines"
    :style="{
      aspectRatio: `${box.width} / ${box.height}`,
      maxWidth: `${(560 * box.width) / box.height}px`,
    }"
    role="img"
    :aria-label="label"
  >
    <svg aria-hidden="true" :viewBox="`${box.left} 0 ${box.width} ${box.height}`" :font-family="FONT">
      <rect
        :x="bed.plate.x_min"
        :y="Y(bed.plate.y_max)"
        :width="bed.plate.x_max - bed.plate.x_min"
        :height="bed.plate.y_max - bed.plate.y_min"
        :fill="palette.halo"
      />
      <rect
        :x="bed.x_min"
        :y="Y(bed.y_max)"
        :width="bed.x_max - bed.x_min"
        :height="bed.y_max - bed.y_min"
        :fill="palette.plate"
        :stroke="palette.ink"
        :stroke-width="unit * 1.4"
      />
      <g v-for="place in keepOff" :key="place.name">
        <rect
          :x="place.x_min"
          :y="Y(place.y_max)"
          :width="place.x_max - place.x_min"
          :height="place.y_max - place.y_min"
          fill="none"
          :stroke="palette.mark"
          :stroke-width="unit * 1.6"
          :stroke-dasharray="`${unit * 5} ${unit * 3}`"
        />
      </g>
    </svg>
    <canvas ref="canvas" aria-hidden="true" />
    <svg
      v-if="worst || mesh"
      aria-hidden="true"
      class="over"
      :viewBox="`${box.left} 0 ${box.width} ${box.height}`"
    >
      <rect
        v-if="mesh"
        :x="mesh.x_min"
        :y="Y(mesh.y_max)"
        :width="mesh.x_max - mesh.x_min"
        :height="mesh.y_max - mesh.y_min"
        fill="none"
        :stroke="palette.ink"
        :stroke-width="unit * 1.2"
        :stroke-dasharray="`${unit * 2} ${unit * 4}`"
      />
      <g v-if="worst" :transform="`translate(${worst.x} ${Y(worst.y)})`" fill="none" :stroke="palette.ink">
        <circle :r="unit * 9" :stroke="palette.halo" :stroke-width="unit * 5" />
        <circle :r="unit * 9" :stroke-width="unit * 2" />
      </g>
    </svg>
  </div>
</template>

<style scoped>
.lines {
  position: relative;
  width: 100%;
  margin: 0 auto;
}
.lines svg,
.lines canvas {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
</style>
