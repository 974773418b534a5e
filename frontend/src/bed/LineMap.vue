<script setup lang="ts">
// The first layer of a print along its own lines, each at its width in the band it will have.
import { useElementSize } from '@vueuse/core'
import { computed, onUnmounted, ref, shallowRef, watch } from 'vue'
import type { Schemas } from '@/api/client'
import { BAND_TINT, FONT, palette } from './palette'
import { bandsAt, type Lines } from './lines'
import { makePainter, type Painter } from './paint'

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
const painter = shallowRef<Painter | null>(null)
let bands = new Uint8Array(0)
watch(
  [canvas, () => props.lines, () => palette.value.plate],
  () => {
    painter.value?.gone(false)
    painter.value = canvas.value && makePainter(canvas.value, props.lines, rgb(palette.value.plate))
    bands = new Uint8Array(props.lines.count)
  },
  { flush: 'post' },
)
onUnmounted(() => painter.value?.gone(true))
const sharp = window.devicePixelRatio || 1
watch(
  [painter, () => props.shift, () => props.shown, box, width, colours],
  () => {
    const [here, on] = [painter.value, canvas.value]
    if (!here || !on || !width.value) return
    const [w, h] = [
      Math.round(width.value * sharp),
      Math.round((width.value * sharp * box.value.height) / box.value.width),
    ]
    if (on.width !== w || on.height !== h) [on.width, on.height] = [w, h]
    bandsAt(props.lines, props.shift, bands)
    here.bands(bands)
    here.draw(
      { left: box.value.left, front: box.value.front, unit: box.value.width / w },
      colours.value,
      props.shown,
    )
    on.dataset.drawn = `${props.shift} ${props.shown} ${w}`
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
    <svg v-if="worst" aria-hidden="true" class="over" :viewBox="`${box.left} 0 ${box.width} ${box.height}`">
      <g :transform="`translate(${worst.x} ${Y(worst.y)})`" fill="none" :stroke="palette.ink">
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
