<script setup lang="ts">
// A knob with the arc to turn, as seen from where the person looks.
import { computed } from 'vue'
import { FONT, palette } from '@/bed/palette'

const props = defineProps<{
  turns: number
  direction: 'clockwise' | 'counterclockwise'
  figures: string
  leave: boolean
  label: string
}>()
const R = 40
const part = computed(() => {
  const size = Math.abs(props.turns)
  const rest = size - Math.floor(size)
  return { whole: Math.floor(size), rest }
})
const way = computed(() => (props.direction === 'clockwise' ? 1 : -1))
const point = (share: number, r: number): [number, number] => {
  const angle = way.value * share * 2 * Math.PI
  return [50 + r * Math.sin(angle), 50 - r * Math.cos(angle)]
}
const arc = computed(() => {
  const share = part.value.rest || (part.value.whole ? 0.999 : 0)
  if (!share) return ''
  const [x, y] = point(Math.max(share - 0.03, 0.01), R)
  return `M50,${50 - R}A${R},${R} 0 ${share > 0.53 ? 1 : 0} ${way.value > 0 ? 1 : 0} ${x.toFixed(2)},${y.toFixed(2)}`
})
const head = computed(() => {
  const share = part.value.rest || (part.value.whole ? 0.999 : 0)
  if (!share) return ''
  const tip = point(share, R)
  const a = point(share - 0.055, R - 8)
  const b = point(share - 0.055, R + 8)
  return [tip, a, b].map(([x, y]) => `${x.toFixed(2)},${y.toFixed(2)}`).join(' ')
})
const grips = Array.from({ length: 16 }, (_, i) => (i * 360) / 16)
</script>

<template>
  <svg viewBox="-2 -2 104 104" role="img" :aria-label="label" :font-family="FONT" class="knob">
    <circle cx="50" cy="50" r="29" :fill="palette.plate" :stroke="palette.post" stroke-width="2" />
    <rect
      v-for="angle in grips"
      :key="angle"
      x="48.4"
      y="17.5"
      width="3.2"
      height="5"
      rx="1"
      :fill="palette.post"
      :transform="`rotate(${angle} 50 50)`"
    />
    <template v-if="!leave">
      <circle
        v-if="part.whole"
        cx="50"
        cy="50"
        :r="R"
        fill="none"
        :stroke="palette.mark"
        stroke-width="2"
        stroke-dasharray="3 3"
      />
      <line x1="50" y1="4" x2="50" y2="16" :stroke="palette.faint" stroke-width="1.6" />
      <path :d="arc" fill="none" :stroke="palette.mark" stroke-width="6" />
      <polygon :points="head" :fill="palette.mark" />
      <text
        x="50"
        y="51"
        text-anchor="middle"
        dominant-baseline="central"
        :font-size="figures.length > 4 ? 15 : 20"
        font-weight="700"
        :fill="palette.ink"
      >
        {{ figures }}
      </text>
    </template>
    <path v-else d="M40,50 H60" :stroke="palette.faint" stroke-width="5" stroke-linecap="round" />
  </svg>
</template>

<style scoped>
.knob {
  width: 100%;
  height: auto;
  display: block;
}
</style>
