<script setup lang="ts">
// Straightedges where they were laid on.
import { useCanvas } from '../canvas'
import { palette } from '../palette'
import type { Edge } from '../spots'
import MapText from './MapText.vue'

defineProps<{ edges: Edge[] }>()
const { unit, X, Y } = useCanvas()
const path = ({ from, to }: Edge): string => `M${X(from.x)},${Y(from.y)}L${X(to.x)},${Y(to.y)}`
</script>

<template>
  <g v-for="(one, i) in edges" :key="i" stroke-linecap="round" fill="none">
    <path :d="path(one)" :stroke="palette.halo" :stroke-width="unit * 7" stroke-opacity="0.75" />
    <path :d="path(one)" :stroke="palette.mark" :stroke-width="unit * 2.4" />
    <MapText
      v-if="one.text"
      :x="X((one.from.x * 2 + one.to.x) / 3)"
      :y="Y((one.from.y * 2 + one.to.y) / 3) - unit * 8"
      mark
    >
      {{ one.text }}
    </MapText>
  </g>
</template>
