<script setup lang="ts">
// Signs of a first layer, drawn small: lines in section on the plate, or the bed from above.
import { computed } from 'vue'
import { palette } from '@/bed/palette'

const props = defineProps<{ drawing: string }>()
// width and height of three beads in section, and how far apart they lie
const LINES: Record<string, { w: number; h: number; s: number; ridge?: boolean }> = {
  gaps: { w: 12, h: 11, s: 20 },
  round_bead: { w: 13, h: 13, s: 18 },
  see_through: { w: 24, h: 3, s: 20 },
  ridges: { w: 20, h: 5, s: 19, ridge: true },
  thin: { w: 10, h: 6, s: 20 },
}
const lines = computed(() => LINES[props.drawing])
const above = computed(() => !lines.value)
const dots = [
  [14, 10],
  [30, 22],
  [47, 14],
  [40, 31],
  [20, 30],
] as const
</script>

<template>
  <svg viewBox="0 0 64 44" class="sign" aria-hidden="true">
    <template v-if="lines">
      <rect x="0" y="34" width="64" height="6" :fill="palette.plate" />
      <line x1="0" x2="64" y1="34" y2="34" :stroke="palette.ink" stroke-width="1.5" />
      <g v-for="i in [0, 1, 2]" :key="i">
        <rect
          :x="32 + (i - 1) * lines.s - lines.w / 2"
          :y="34 - lines.h"
          :width="lines.w"
          :height="lines.h"
          :rx="lines.h / 2"
          :fill="palette.tint(drawing === 'see_through' || drawing === 'ridges' ? 0.5 : -0.5)"
          :stroke="palette.ink"
          stroke-width="1.2"
        />
        <path
          v-if="lines.ridge"
          :d="`M${32 + (i - 1) * lines.s + 7},29l3,-8l3,8z`"
          :fill="palette.tint(0.8)"
          :stroke="palette.ink"
          stroke-width="1"
        />
      </g>
    </template>
    <template v-else-if="above">
      <rect
        v-if="!['corners', 'knocked', 'foot', 'strings', 'scraping', 'small_peel'].includes(drawing)"
        x="8"
        y="3"
        width="48"
        height="38"
        rx="2"
        :fill="palette.tint(0)"
        :stroke="palette.ink"
        stroke-width="1.4"
      />
      <path
        v-if="drawing === 'one_side'"
        d="M32,3h22a2,2 0 0 1 2,2v34a2,2 0 0 1 -2,2h-22z"
        :fill="palette.tint(-0.6)"
      />
      <path v-else-if="drawing === 'one_corner'" d="M38,3h16a2,2 0 0 1 2,2v14z" :fill="palette.tint(0.7)" />
      <circle v-else-if="drawing === 'centre_edge'" cx="32" cy="22" r="12" :fill="palette.tint(0.6)" />
      <template v-else-if="drawing === 'bands'">
        <rect
          v-for="x in [14, 28, 42]"
          :key="x"
          :x="x"
          y="4"
          width="7"
          height="36"
          :fill="palette.tint(-0.5)"
        />
      </template>
      <ellipse v-else-if="drawing === 'one_area'" cx="42" cy="29" rx="11" ry="8" :fill="palette.tint(-0.7)" />
      <template v-else-if="drawing === 'round_spots'">
        <circle
          v-for="[x, y] in dots"
          :key="x"
          :cx="x"
          :cy="y"
          r="3.6"
          :fill="palette.ground"
          :stroke="palette.ink"
          stroke-width="1"
        />
      </template>
      <g v-else-if="drawing === 'same_spot'" :stroke="palette.ink" fill="none" stroke-width="1.4">
        <circle cx="40" cy="16" r="3" />
        <circle cx="40" cy="16" r="7" />
      </g>
      <template v-else-if="drawing === 'patchy'">
        <path d="M10,30q6,-8 12,-2t12,-6v18h-22zM40,6q8,2 6,9t8,6v-16z" :fill="palette.tint(-0.5)" />
      </template>
      <g v-else-if="drawing === 'nothing_sticks'" :stroke="palette.ink" fill="none" stroke-width="2">
        <path d="M14,14q8,-9 14,0t12,0M18,30q6,-10 13,-1t14,-3" />
      </g>
      <template v-else-if="drawing === 'pinholes'">
        <rect x="14" y="9" width="36" height="26" fill="none" :stroke="palette.ink" stroke-width="3" />
        <circle v-for="x in [20, 27, 34, 41]" :key="x" :cx="x" cy="14" r="1.6" :fill="palette.ink" />
      </template>
      <g v-else-if="drawing === 'blobs'" :fill="palette.tint(-0.6)" :stroke="palette.ink">
        <circle cx="18" cy="22" r="5" />
        <circle cx="33" cy="22" r="3.4" />
        <circle cx="48" cy="22" r="5.4" />
      </g>
      <g v-else-if="drawing === 'dull'" stroke-width="4">
        <line
          v-for="(y, i) in [10, 18, 26, 34]"
          :key="y"
          x1="13"
          x2="51"
          :y1="y"
          :y2="y"
          :stroke="palette.tint(i % 2 ? -0.25 : -0.75)"
        />
      </g>
      <path
        v-else-if="drawing === 'rough'"
        d="M12,14l4,3l4,-4l5,5l5,-5l5,4l5,-5l5,4l5,-3M12,28l5,-4l4,5l5,-5l5,5l5,-4l5,4l5,-4l5,3"
        :stroke="palette.ink"
        fill="none"
        stroke-width="1.6"
      />
      <g v-else-if="drawing === 'corners'" :stroke="palette.ink" stroke-width="1.5">
        <line x1="4" x2="60" y1="37" y2="37" />
        <path d="M8,26q8,8 16,9h16q8,-1 16,-9v-6q-8,6 -16,7h-16q-8,-1 -16,-7z" :fill="palette.tint(-0.4)" />
      </g>
      <g v-else-if="drawing === 'knocked'" :stroke="palette.ink" stroke-width="1.5">
        <line x1="4" x2="60" y1="39" y2="39" />
        <rect x="26" y="6" width="9" height="31" :fill="palette.tint(-0.4)" transform="rotate(24 30 37)" />
      </g>
      <g v-else-if="drawing === 'foot'" :stroke="palette.ink" stroke-width="1.5">
        <line x1="4" x2="60" y1="38" y2="38" />
        <path d="M20,6h24v22q0,6 8,8v2h-40v-2q8,-2 8,-8z" :fill="palette.tint(0.5)" />
      </g>
      <g v-else-if="drawing === 'strings'" :stroke="palette.ink" stroke-width="1.5">
        <line x1="4" x2="60" y1="38" y2="38" />
        <rect x="9" y="14" width="10" height="24" :fill="palette.tint(-0.4)" />
        <rect x="45" y="14" width="10" height="24" :fill="palette.tint(-0.4)" />
        <path d="M19,18q13,9 26,0M19,24q13,8 26,1" fill="none" stroke-width="1" />
      </g>
      <g v-else-if="drawing === 'scraping'" :stroke="palette.ink" stroke-width="1.5">
        <path d="M22,6h20l-5,20h-10z" :fill="palette.post" />
        <path d="M4,34h22l6,-8l6,8h22" fill="none" />
      </g>
      <g v-else-if="drawing === 'small_peel'" :stroke="palette.ink" fill="none" stroke-width="1.8">
        <line x1="4" x2="60" y1="38" y2="38" stroke-width="1.5" />
        <path d="M10,36h20q12,0 14,-12q1,-10 -8,-10t-6,9" />
      </g>
    </template>
  </svg>
</template>

<style scoped>
.sign {
  display: block;
  width: 64px;
  height: 44px;
  flex: none;
}
</style>
