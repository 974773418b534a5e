<script setup lang="ts">
// A run of values from visit to visit with centre line and limits.
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { asDate, mm } from '@/shell/format'
import { FONT, palette } from '@/bed/palette'

const props = defineProps<{
  values: number[]
  dates: string[]
  chart: Schemas['ChartOut'] | null
  title: string
}>()
const W = 460
const H = 150
const PAD = { left: 46, right: 70, top: 14, bottom: 22 }
const top = computed(() => Math.max(...props.values, props.chart?.upper ?? 0, 0.05) * 1.08)
const times = computed(() => props.dates.map((d) => new Date(d).getTime()))
const x = (i: number): number => {
  const [first, last] = [times.value[0]!, times.value.at(-1)!]
  const share = last > first ? (times.value[i]! - first) / (last - first) : 0.5
  return PAD.left + share * (W - PAD.left - PAD.right)
}
const y = (v: number): number => H - PAD.bottom - (v / top.value) * (H - PAD.top - PAD.bottom)
const path = computed(() =>
  props.values.map((v, i) => `${i ? 'L' : 'M'}${x(i).toFixed(1)},${y(v).toFixed(1)}`).join(''),
)
const odd = (i: number): boolean =>
  !!props.chart && (props.chart.outside.includes(i) || props.chart.jumps.includes(i))
const lines = computed(() => {
  if (!props.chart) return []
  const found = [
    { at: props.chart.upper, text: 'upper limit', dash: '5 3' },
    { at: props.chart.mean, text: 'mean', dash: '' },
  ]
  if (props.chart.lower > 0) found.push({ at: props.chart.lower, text: 'lower limit', dash: '5 3' })
  return found
})
const ticks = computed(() => [0, top.value / 2.16, top.value / 1.08])
const said = computed(() => props.values.map((v, i) => `${asDate(props.dates[i]!)}: ${mm(v)}`).join('; '))
</script>

<template>
  <svg
    class="run"
    :viewBox="`0 0 ${W} ${H}`"
    role="img"
    :aria-label="`${title}. ${said}`"
    :font-family="FONT"
  >
    <g v-for="t in ticks" :key="t">
      <line
        :x1="PAD.left"
        :x2="W - PAD.right"
        :y1="y(t)"
        :y2="y(t)"
        :stroke="palette.faint"
        stroke-width="0.5"
        stroke-opacity="0.5"
      />
      <text :x="PAD.left - 9" :y="y(t) + 4" text-anchor="end" font-size="11.5" :fill="palette.faint">
        {{ t.toFixed(2) }}
      </text>
    </g>
    <g v-for="line in lines" :key="line.text">
      <line
        :x1="PAD.left"
        :x2="W - PAD.right"
        :y1="y(line.at)"
        :y2="y(line.at)"
        :stroke="palette.mark"
        stroke-width="1.2"
        :stroke-dasharray="line.dash"
      />
      <text :x="W - PAD.right + 10" :y="y(line.at) + 4" font-size="11.5" :fill="palette.mark">
        {{ line.text }}
      </text>
    </g>
    <path :d="path" fill="none" :stroke="palette.ink" stroke-width="1.6" />
    <g v-for="(v, i) in values" :key="i">
      <rect
        v-if="odd(i)"
        :x="x(i) - 5.5"
        :y="y(v) - 5.5"
        width="11"
        height="11"
        :fill="palette.ground"
        :stroke="palette.mark"
        stroke-width="2"
        :transform="`rotate(45 ${x(i)} ${y(v)})`"
      >
        <title>{{ asDate(dates[i]!) }}: {{ mm(v) }}, out of the ordinary</title>
      </rect>
      <circle v-else :cx="x(i)" :cy="y(v)" r="3.6" :fill="palette.ink">
        <title>{{ asDate(dates[i]!) }}: {{ mm(v) }}</title>
      </circle>
    </g>
    <text :x="PAD.left" :y="H - 5" font-size="11.5" :fill="palette.faint">{{ asDate(dates[0]!) }}</text>
    <text
      v-if="dates.length > 1"
      :x="W - PAD.right"
      :y="H - 5"
      text-anchor="end"
      font-size="11.5"
      :fill="palette.faint"
    >
      {{ asDate(dates.at(-1)!) }}
    </text>
  </svg>
</template>

<style scoped>
.run {
  width: 100%;
  max-width: 560px;
  display: block;
}
</style>
