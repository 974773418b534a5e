<script setup lang="ts">
// The plate beneath everything.
import { palette } from '../palette'
import { useCanvas } from '../canvas'
import BedRect from './BedRect.vue'

const { bed, unit } = useCanvas()
</script>

<template>
  <BedRect
    :area="bed.plate"
    :rx="unit * 5"
    :fill="palette.plate"
    :stroke="palette.faint"
    :stroke-width="unit"
  />
</template>
