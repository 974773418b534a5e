<script setup lang="ts">
// A rectangle in mm of the bed.
import type { Schemas } from '@/api/client'
import { useCanvas } from '../canvas'

defineProps<{ area: Pick<Schemas['Rectangle'], 'x_min' | 'x_max' | 'y_min' | 'y_max'> }>()
const { X, Y } = useCanvas()
</script>

<template>
  <rect
    :x="X(area.x_min)"
    :y="Y(area.y_max)"
    :width="area.x_max - area.x_min"
    :height="area.y_max - area.y_min"
  >
    <slot />
  </rect>
</template>
