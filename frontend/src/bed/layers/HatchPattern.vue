<script setup lang="ts">
// Hatching that keeps its width on every screen.
import { useCanvas } from '../canvas'

withDefaults(
  defineProps<{
    step: number
    width: number
    angle?: number
    colour: string
    opacity?: number
    ground?: string
  }>(),
  { angle: 45, opacity: 1, ground: '' },
)
const { unit } = useCanvas()
</script>

<template>
  <pattern
    :width="unit * step"
    :height="unit * step"
    patternUnits="userSpaceOnUse"
    :patternTransform="`rotate(${angle})`"
  >
    <rect v-if="ground" :width="unit * step" :height="unit * step" :fill="ground" />
    <line
      x1="0"
      y1="0"
      x2="0"
      :y2="unit * step"
      :stroke="colour"
      :stroke-width="unit * width"
      :stroke-opacity="opacity"
    />
  </pattern>
</template>
