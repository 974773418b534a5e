<script setup lang="ts">
// A bead under the tip, with its neighbours and the plate, all at one scale.
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { figure } from '@/shell/format'
import { BAND_TINT, FONT, palette } from '@/bed/palette'

const props = defineProps<{
  laid: Schemas['LaidOut']
  spacing: number
  sliced: number
  label: string
  small?: boolean
}>()
const W = 480
const H = 190
const TIP = 0.8
// mm to the picture: four lines across
const scale = computed(() => W / Math.max(4.4 * props.spacing, 1.7))
const ground = 150
const px = (mm: number): number => mm * scale.value
const fill = computed(() => palette.value.tint(BAND_TINT[props.laid.band]))
// the newest line lies under the tip, its neighbours to the left
const beads = computed(() => {
  if (props.laid.band === 'scrapes') return []
  const w = Math.min(props.laid.width, 1.6 * props.spacing)
  return [-2, -1, 0].map((i) => ({
    x: W * 0.66 + px(i * props.spacing - w / 2),
    width: px(w),
    height: px(props.laid.height),
    newest: i === 0,
  }))
})
const gap = computed(() => Math.max(0, props.laid.gap))
const tip = computed(() => {
  const y = ground - px(gap.value)
  const x = W * 0.66
  const half = px(TIP / 2)
  const hole = px(0.2)
  return {
    y,
    left: `M${x - hole},${y}L${x - half},${y}L${x - half * 1.9},${y - 80}L${x - hole},${y - 80}Z`,
    right: `M${x + hole},${y}L${x + half},${y}L${x + half * 1.9},${y - 80}L${x + hole},${y - 80}Z`,
    hole: { x: x - hole, width: 2 * hole },
  }
})
</script>

<template>
  <svg
    class="bead"
    role="img"
    :aria-label="label"
    :viewBox="small ? `90 30 340 140` : `0 0 ${W} ${H}`"
    :font-family="FONT"
  >
    <rect
      v-if="beads.length"
      :x="tip.hole.x"
      :y="tip.y - 80"
      :width="tip.hole.width"
      height="80"
      :fill="fill"
    />
    <path :d="tip.left" :fill="palette.post" />
    <path :d="tip.right" :fill="palette.post" />
    <rect
      v-for="(b, i) in beads"
      :key="i"
      :x="b.x"
      :y="ground - b.height"
      :width="b.width"
      :height="b.height"
      :rx="b.height / 2"
      :fill="fill"
      :stroke="palette.ink"
      :stroke-width="b.newest ? 2 : 1.2"
    />
    <rect x="0" :y="ground" :width="W" height="14" :fill="palette.plate" />
    <line x1="0" :x2="W" :y1="ground" :y2="ground" :stroke="palette.ink" stroke-width="2" />
    <line
      x1="0"
      :x2="W * 0.66"
      :y1="ground - px(sliced)"
      :y2="ground - px(sliced)"
      :stroke="palette.faint"
      stroke-width="1.4"
      stroke-dasharray="5 4"
    />
    <text
      v-if="!small"
      :x="W - 8"
      :y="ground - px(gap) / 2 + 4"
      text-anchor="end"
      font-size="14"
      font-weight="650"
      :fill="palette.ink"
    >
      gap {{ figure(laid.gap) }} mm
    </text>
    <text v-if="!small" :x="W / 2" :y="H - 8" text-anchor="middle" font-size="12.5" :fill="palette.faint">
      plate · tip and beads at one scale · dashed: {{ figure(sliced) }} mm, as sliced
    </text>
  </svg>
</template>

<style scoped>
.bead {
  display: block;
  width: 100%;
}
</style>
