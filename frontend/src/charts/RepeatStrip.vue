<script setup lang="ts">
// Touches at one place, in their order: mean, limits, the one that stands out.
import { useElementSize } from '@vueuse/core'
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import { figure } from '@/shell/format'
import { FONT, palette } from '@/bed/palette'

const props = defineProps<{ heights: number[]; result: Schemas['RepeatabilityOut'] | null }>()
// as wide as it stands, so that the lettering keeps its size
const svg = ref<SVGSVGElement | null>(null)
const { width } = useElementSize(svg)
const W = computed(() => Math.min(760, Math.max(300, width.value || 560)))
const H = 220
const L = 62
const mean = computed(
  () => props.result?.mean ?? props.heights.reduce((a, b) => a + b, 0) / Math.max(1, props.heights.length),
)
const good = computed(() => props.result?.good_range ?? 0.02)
const reach = computed(
  () => Math.max(good.value * 0.9, ...props.heights.map((h) => Math.abs(h - mean.value))) * 1.2,
)
const x = (i: number): number => L + 16 + (i * (W.value - L - 32)) / Math.max(9, props.heights.length - 1)
const y = (h: number): number => 14 + ((H - 40) / 2) * (1 - (h - mean.value) / reach.value)
const said = computed(
  () => `${props.heights.length} touches: ${props.heights.map((h) => figure(h, true, 3)).join(', ')} mm`,
)
const step = computed(
  () => [0.002, 0.005, 0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 5].find((s) => reach.value / s <= 3) ?? 10,
)
const ticks = computed(() =>
  [-3, -2, -1, 0, 1, 2, 3].map((k) => k * step.value).filter((v) => Math.abs(v) <= reach.value),
)
</script>

<template>
  <svg ref="svg" class="strip" :viewBox="`0 0 ${W} ${H}`" role="img" :aria-label="said" :font-family="FONT">
    <rect
      :x="L"
      y="6"
      :width="W - L - 8"
      :height="H - 30"
      :fill="palette.plate"
      :stroke="palette.faint"
      stroke-opacity="0.5"
    />
    <rect
      :x="L"
      :y="y(mean + good / 2)"
      :width="W - L - 8"
      :height="y(mean - good / 2) - y(mean + good / 2)"
      :fill="palette.tint(0)"
      stroke="none"
      opacity="0.9"
    />
    <line
      v-for="side in [-0.5, 0.5]"
      :key="side"
      :x1="L"
      :x2="W - 8"
      :y1="y(mean + side * good)"
      :y2="y(mean + side * good)"
      :stroke="palette.faint"
      stroke-dasharray="5 4"
    />
    <line :x1="L" :x2="W - 8" :y1="y(mean)" :y2="y(mean)" :stroke="palette.ink" stroke-width="1.4" />
    <template v-for="t in ticks" :key="t">
      <text :x="L - 6" :y="y(mean + t) + 4" text-anchor="end" font-size="13" :fill="palette.ink">
        {{ figure(mean + t, true, 3) }}
      </text>
    </template>
    <g v-for="(h, i) in heights" :key="i">
      <line :x1="x(i)" :x2="x(i)" :y1="y(mean)" :y2="y(h)" :stroke="palette.faint" />
      <circle
        :cx="x(i)"
        :cy="y(h)"
        r="5"
        :fill="result?.aside.includes(i) ? palette.ground : palette.ink"
        :stroke="result?.aside.includes(i) ? palette.mark : palette.ink"
        stroke-width="2.4"
      />
      <text
        v-if="result?.aside.includes(i)"
        :x="x(i)"
        :y="y(h) + (h > mean ? -9 : 20)"
        text-anchor="middle"
        font-size="13"
        font-weight="700"
        :fill="palette.mark"
      >
        stands out
      </text>
      <text
        v-if="heights.length <= 20"
        :x="x(i)"
        :y="H - 8"
        text-anchor="middle"
        font-size="12"
        :fill="palette.faint"
      >
        {{ i + 1 }}
      </text>
    </g>
    <text :x="W - 12" :y="y(mean + good / 2) - 5" text-anchor="end" font-size="12" :fill="palette.faint">
      good: within {{ figure(good) }} mm
    </text>
  </svg>
</template>

<style scoped>
.strip {
  width: 100%;
  height: auto;
  display: block;
}
</style>
