<script setup lang="ts">
// What one turn of a knob really moves: the plate from above, a disc at each corner that rises or sinks, a dashed ring
// for what it should.
import { computed } from 'vue'
import { FONT, palette } from '@/bed/palette'

const props = defineProps<{
  corners: number[]
  expected: number[]
  knob: { x: number; y: number }
  label: string
}>()
const W = 200
const H = 140
// counter-clockwise from the front left
const AT: [number, number][] = [
  [46, 104],
  [154, 104],
  [154, 36],
  [46, 36],
]
const top = computed(() => Math.max(...props.corners.map(Math.abs), ...props.expected.map(Math.abs), 0.001))
const size = (v: number): number => 5 + (21 * Math.abs(v)) / top.value
const knobAt = computed(() => [100 + props.knob.x * 76, 70 - props.knob.y * 56])
const said = (v: number): string =>
  Math.abs(v) < 0.005 ? '0.00' : `${v < 0 ? '−' : '+'}${Math.abs(v).toFixed(2)}`
</script>

<template>
  <svg class="effect" :viewBox="`0 0 ${W} ${H}`" role="img" :aria-label="label" :font-family="FONT">
    <rect x="28" y="18" width="144" height="104" rx="5" :fill="palette.plate" :stroke="palette.faint" />
    <g v-for="(c, i) in corners" :key="i">
      <circle
        v-if="Math.abs(c) >= 0.02"
        :cx="AT[i]![0]"
        :cy="AT[i]![1]"
        :r="size(c)"
        :fill="palette.tint(Math.abs(c) < 0.005 ? 0 : (0.8 * c) / top)"
        :stroke="palette.ink"
        stroke-width="1"
      />
      <circle
        v-if="Math.abs(expected[i]!) >= 0.02"
        :cx="AT[i]![0]"
        :cy="AT[i]![1]"
        :r="size(expected[i]!)"
        fill="none"
        :stroke="palette.ink"
        stroke-width="1.2"
        stroke-dasharray="3 2.5"
      />
      <text
        :x="AT[i]![0]"
        :y="AT[i]![1] + 4.5"
        text-anchor="middle"
        font-size="13"
        font-weight="700"
        :fill="palette.ink"
        :stroke="palette.halo"
        stroke-width="3.5"
        paint-order="stroke"
      >
        {{ said(c) }}
      </text>
    </g>
    <rect
      :x="knobAt[0]! - 6"
      :y="knobAt[1]! - 6"
      width="12"
      height="12"
      rx="2"
      :fill="palette.ground"
      :stroke="palette.mark"
      stroke-width="2.6"
    />
  </svg>
</template>

<style scoped>
.effect {
  width: 100%;
  max-width: 260px;
  display: block;
}
</style>
