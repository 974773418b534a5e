<script setup lang="ts">
// Lettering on the map: a halo keeps it readable over any tint.
import { palette } from '../palette'
import { useCanvas } from '../canvas'

withDefaults(defineProps<{ x?: number; y?: number; size?: number; weight?: number; mark?: boolean }>(), {
  x: 0,
  y: 0,
  size: 1,
  weight: 650,
})
const { unit, textSize } = useCanvas()
</script>

<template>
  <text
    :x="x"
    :y="y"
    text-anchor="middle"
    :font-size="textSize * size"
    :font-weight="weight"
    :fill="mark ? palette.mark : palette.ink"
    :stroke="palette.halo"
    :stroke-width="unit * 3.7"
    paint-order="stroke"
    stroke-linejoin="round"
  >
    <slot />
  </text>
</template>
