<script setup lang="ts">
// Ways of the tip: drawn out where it lays plastic or walks, dashed where it only stops on its way.
import type { Schemas } from '@/api/client'
import { useCanvas } from '../canvas'
import { palette } from '../palette'

defineProps<{ points: Schemas['XY'][]; wide?: boolean; dashed?: boolean }>()
const { unit, X, Y } = useCanvas()
const line = (points: Schemas['XY'][]): string =>
  points.map(({ x, y }) => `${X(x).toFixed(1)},${Y(y).toFixed(1)}`).join(' ')
</script>

<template>
  <polyline
    v-if="points.length > 1"
    :points="line(points)"
    fill="none"
    :stroke="palette.ink"
    :stroke-width="unit * (wide ? 2.5 : 2)"
    :stroke-dasharray="dashed ? `${unit * 5} ${unit * 5}` : undefined"
    stroke-linejoin="round"
  />
</template>
