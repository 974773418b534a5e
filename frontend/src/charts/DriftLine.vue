<script setup lang="ts">
// How the variation went from visit to visit: before and after each, oldest on the left.
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { asDate, mm } from '@/shell/format'
import { FONT, palette } from '@/bed/palette'

const props = defineProps<{ history: Schemas['VisitLine'][]; good: number }>()
const W = 260
const H = 74
const points = computed(() => props.history.filter((v) => v.last_spread !== null).toReversed())
const top = computed(
  () =>
    Math.max(props.good * 4, ...points.value.map((v) => Math.max(v.first_spread!, v.last_spread!))) * 1.08,
)
const x = (i: number): number =>
  points.value.length < 2 ? W / 2 : 12 + (i * (W - 24)) / (points.value.length - 1)
const y = (v: number): number => H - 14 - (v / top.value) * (H - 22)
const path = computed(() =>
  points.value.map((v, i) => `${i ? 'L' : 'M'}${x(i).toFixed(1)},${y(v.last_spread!).toFixed(1)}`).join(''),
)
const said = computed(() =>
  points.value
    .map((v) => `${asDate(v.started_at)}: ${mm(v.first_spread!)} before, ${mm(v.last_spread!)} after`)
    .join('; '),
)
</script>

<template>
  <svg
    v-if="points.length"
    class="drift"
    :viewBox="`0 0 ${W} ${H}`"
    role="img"
    :aria-label="`Variation at each visit. ${said}`"
    :font-family="FONT"
  >
    <line x1="4" :x2="W - 4" :y1="y(good)" :y2="y(good)" :stroke="palette.faint" stroke-dasharray="4 3" />
    <path :d="path" fill="none" :stroke="palette.ink" stroke-width="1.6" />
    <g v-for="(v, i) in points" :key="v.id">
      <line
        v-if="v.first_spread !== v.last_spread"
        :x1="x(i)"
        :x2="x(i)"
        :y1="y(v.first_spread!)"
        :y2="y(v.last_spread!)"
        :stroke="palette.mark"
        stroke-width="1.4"
      />
      <circle
        v-if="v.first_spread !== v.last_spread"
        :cx="x(i)"
        :cy="y(v.first_spread!)"
        r="3"
        :fill="palette.ground"
        :stroke="palette.mark"
        stroke-width="1.6"
      >
        <title>{{ asDate(v.started_at) }}: {{ mm(v.first_spread!) }} before</title>
      </circle>
      <circle :cx="x(i)" :cy="y(v.last_spread!)" r="3.4" :fill="palette.ink">
        <title>{{ asDate(v.started_at) }}: {{ mm(v.last_spread!) }} after</title>
      </circle>
    </g>
    <text x="2" :y="H - 1" font-size="10.5" :fill="palette.faint">{{ asDate(points[0]!.started_at) }}</text>
    <text :x="W / 2" :y="H - 1" text-anchor="middle" font-size="10.5" :fill="palette.faint">
      – – good up to {{ mm(good) }}
    </text>
    <text :x="W - 2" :y="H - 1" text-anchor="end" font-size="10.5" :fill="palette.faint">
      {{ asDate(points.at(-1)!.started_at) }}
    </text>
  </svg>
</template>

<style scoped>
.drift {
  width: 100%;
  max-width: 400px;
  display: block;
  overflow: visible;
}
</style>
