<script setup lang="ts">
// What the probe reaches, and where nothing may go.
import { useId } from 'vue'
import type { Schemas } from '@/api/client'
import { useCanvas } from '../canvas'
import { palette } from '../palette'
import BedRect from './BedRect.vue'
import HatchPattern from './HatchPattern.vue'

defineProps<{ reach: Schemas['Rectangle'] | null }>()
const { bed, unit, small } = useCanvas()
const barred = useId()
</script>

<template>
  <defs>
    <HatchPattern :id="barred" :step="6" :width="3" :colour="palette.post" :ground="palette.plate" />
  </defs>
  <BedRect
    v-if="reach && !small"
    :area="reach"
    fill="none"
    :stroke="palette.mark"
    :stroke-width="unit * 1.4"
    :stroke-dasharray="`${unit * 7} ${unit * 5}`"
  />
  <BedRect
    v-for="one in bed.keep_off"
    :key="`k${one.name}`"
    :area="one"
    :fill="`url(#${barred})`"
    :stroke="palette.post"
    :stroke-width="unit * (small ? 0.8 : 1.4)"
  >
    <title>{{ one.name }}: nothing goes there</title>
  </BedRect>
</template>
