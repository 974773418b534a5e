<script setup lang="ts">
// A straightedge laid on, with the gaps under it drawn much too high.
import { useElementSize } from '@vueuse/core'
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import { figure } from '@/shell/format'
import { FONT, palette } from './palette'

const props = defineProps<{ line: Schemas['LineOut'] }>()
// as wide as it stands, so that the lettering keeps its size
const svg = ref<SVGSVGElement | null>(null)
const { width } = useElementSize(svg)
const W = computed(() => Math.min(760, Math.max(300, width.value || 560)))
const H = 150
const first = computed(() => props.line.positions[0]!)
const span = computed(() => props.line.positions.at(-1)! - first.value)
const reach = computed(() => Math.max(0.05, ...props.line.heights.map(Math.abs)) * 1.3)
const x = (p: number): number => 24 + ((p - first.value) / span.value) * (W.value - 48)
const y = (h: number): number => H / 2 - (h / reach.value) * (H / 2 - 22)
const path = computed(() =>
  props.line.positions
    .map((p, i) => `${i ? 'L' : 'M'}${x(p).toFixed(1)},${y(props.line.heights[i]!).toFixed(1)}`)
    .join(''),
)
const times = computed(() => Math.round((H / 2 - 22) / reach.value / ((W.value - 48) / span.value) / 10) * 10)
</script>

<template>
  <svg
    ref="svg"
    class="section"
    :viewBox="`0 0 ${W} ${H}`"
    role="img"
    :aria-label="`Heights along the line: ${line.heights.map((h) => figure(h, true)).join(', ')} mm`"
    :font-family="FONT"
  >
    <path :d="`${path}L${x(first + span)},${H - 8}L${x(first)},${H - 8}Z`" :fill="palette.plate" />
    <line
      x1="16"
      :x2="W - 16"
      :y1="H / 2"
      :y2="H / 2"
      :stroke="palette.faint"
      stroke-dasharray="6 4"
      stroke-width="1.6"
    />
    <path :d="path" fill="none" :stroke="palette.ink" stroke-width="2.4" />
    <g v-for="(p, i) in line.positions" :key="i">
      <circle :cx="x(p)" :cy="y(line.heights[i]!)" r="4" :fill="palette.ink" />
      <text
        :x="x(p)"
        :y="y(line.heights[i]!) - 9"
        text-anchor="middle"
        font-size="13"
        font-weight="650"
        :fill="palette.ink"
      >
        {{ figure(line.heights[i]!, true) }}
      </text>
    </g>
    <text :x="W - 16" :y="H - 12" text-anchor="end" font-size="12" :fill="palette.faint">
      heights drawn {{ times }} times too high
    </text>
  </svg>
</template>

<style scoped>
.section {
  width: 100%;
  height: auto;
  display: block;
}
</style>
