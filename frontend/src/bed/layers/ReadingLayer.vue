<script setup lang="ts">
// The height under the pointer.
import { computed } from 'vue'
import { round, useCanvas } from '../canvas'
import { palette } from '../palette'

const props = defineProps<{ reading: { x: number; y: number; text: string } }>()
const { box, unit, X, Y } = useCanvas()
// beside the place, and never outside the picture
const beside = computed(() => {
  const u = unit.value
  const x = Math.min(Math.max(X(props.reading.x), u * 92), box.value.width - u * 92)
  const y = Y(props.reading.y)
  return `translate(${round(x)} ${round(y > u * 60 ? y - u * 26 : y + u * 30)})`
})
</script>

<template>
  <g data-screen pointer-events="none">
    <circle
      :cx="X(reading.x)"
      :cy="Y(reading.y)"
      :r="unit * 4"
      fill="none"
      :stroke="palette.mark"
      :stroke-width="unit * 2"
    />
    <g :transform="beside">
      <rect
        :x="-unit * 88"
        :y="-unit * 14"
        :width="unit * 176"
        :height="unit * 26"
        :rx="unit * 4"
        :fill="palette.ink"
      />
      <text text-anchor="middle" :y="unit * 4" :font-size="unit * 14" font-weight="650" :fill="palette.halo">
        {{ reading.text }}
      </text>
    </g>
  </g>
</template>
