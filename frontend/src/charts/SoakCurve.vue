<script setup lang="ts">
// How one place moved while it warmed through: readings, the curve through them, and where it goes.
import { useElementSize } from '@vueuse/core'
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import { figure } from '@/shell/format'
import { FONT, palette } from '@/bed/palette'

const props = defineProps<{ times: number[]; heights: number[]; result: Schemas['SoakOut'] | null }>()
// as wide as it stands, so that the lettering keeps its size
const svg = ref<SVGSVGElement | null>(null)
const { width } = useElementSize(svg)
const W = computed(() => Math.min(760, Math.max(300, width.value || 560)))
const H = 250
const L = 66
const B = 30
const begin = computed(() => props.times[0] ?? 0)
const last = computed(() =>
  Math.max(
    (props.times.at(-1) ?? 60) - begin.value,
    (props.result?.curve_times.at(-1) ?? 0) - begin.value,
    60,
  ),
)
const all = computed(() => [
  ...props.heights,
  ...(props.result?.curve ?? []),
  ...(props.result?.asymptote != null
    ? [props.result.asymptote + props.result.steady, props.result.asymptote - props.result.steady]
    : []),
])
const low = computed(() => Math.min(...all.value, (props.heights[0] ?? 0) - 0.02))
const high = computed(() => Math.max(...all.value, (props.heights[0] ?? 0) + 0.02))
const x = (t: number): number => L + ((t - begin.value) / last.value) * (W.value - L - 14)
const y = (h: number): number => 12 + (1 - (h - low.value) / (high.value - low.value)) * (H - B - 22)
const path = computed(() =>
  (props.result?.curve ?? [])
    .map((h, i) => `${i ? 'L' : 'M'}${x(props.result!.curve_times[i]!).toFixed(1)},${y(h).toFixed(1)}`)
    .join(''),
)
const step = computed(
  () => [0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 5].find((s) => (high.value - low.value) / s <= 6) ?? 10,
)
const ticks = computed(() => {
  const found = []
  for (let v = Math.ceil(low.value / step.value) * step.value; v <= high.value + 1e-9; v += step.value)
    found.push(v)
  return found
})
const minutes = computed(() => {
  const each = [0.5, 1, 2, 5, 10, 20, 30, 60].find((m) => last.value / 60 / m <= 8) ?? 120
  return Array.from({ length: Math.floor(last.value / 60 / each) + 1 }, (_, i) => i * each)
})
const said = computed(
  () =>
    `${props.heights.length} readings over ${(((props.times.at(-1) ?? 0) - begin.value) / 60).toFixed(1)} minutes, ` +
    `from ${figure(props.heights[0] ?? 0, true, 3)} to ${figure(props.heights.at(-1) ?? 0, true, 3)} mm`,
)
</script>

<template>
  <svg ref="svg" class="curve" :viewBox="`0 0 ${W} ${H}`" role="img" :aria-label="said" :font-family="FONT">
    <rect
      :x="L"
      y="6"
      :width="W - L - 8"
      :height="H - B - 10"
      :fill="palette.plate"
      :stroke="palette.faint"
      stroke-opacity="0.5"
    />
    <template v-if="result?.asymptote != null">
      <rect
        :x="L"
        :y="y(result.asymptote + result.steady)"
        :width="W - L - 8"
        :height="y(result.asymptote - result.steady) - y(result.asymptote + result.steady)"
        :fill="palette.tint(0)"
        opacity="0.9"
      />
      <line
        :x1="L"
        :x2="W - 8"
        :y1="y(result.asymptote)"
        :y2="y(result.asymptote)"
        :stroke="palette.faint"
        stroke-dasharray="5 4"
      />
    </template>
    <text
      v-for="t in ticks"
      :key="t"
      :x="L - 6"
      :y="y(t) + 4"
      text-anchor="end"
      font-size="13"
      :fill="palette.ink"
    >
      {{ figure(t, true) }}
    </text>
    <text
      v-for="m in minutes"
      :key="m"
      :x="x(begin + m * 60)"
      :y="H - 12"
      text-anchor="middle"
      font-size="12"
      :fill="palette.faint"
    >
      {{ m }}{{ m === minutes.at(-1) ? ' min' : '' }}
    </text>
    <path v-if="path" :d="path" fill="none" :stroke="palette.mark" stroke-width="2.4" />
    <circle v-for="(h, i) in heights" :key="i" :cx="x(times[i]!)" :cy="y(h)" r="4" :fill="palette.ink" />
    <text x="4" y="16" font-size="12" :fill="palette.faint">mm</text>
  </svg>
</template>

<style scoped>
.curve {
  width: 100%;
  height: auto;
  display: block;
}
</style>
