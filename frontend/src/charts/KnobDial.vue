<script setup lang="ts">
// A knob to try out: drag it round, or use the arrow keys. Clockwise is as the person sees it.
import { computed, ref } from 'vue'
import { FONT, palette } from '@/bed/palette'

const props = defineProps<{
  turns: number
  divisions: number
  tightens: 'clockwise' | 'counterclockwise'
  name: string
  figures: string
}>()
const emit = defineEmits<{ turn: [turns: number] }>()
const MOST = 4
const svg = ref<SVGSVGElement | null>(null)
const way = computed(() => (props.tightens === 'clockwise' ? 1 : -1))
const angle = computed(() => props.turns * way.value * 360)
const said = computed(() =>
  props.turns === 0 ? 'not turned' : `${props.turns > 0 ? 'tightened' : 'loosened'} ${props.figures} turn`,
)
let last: number | null = null
let sum = 0

function at(event: PointerEvent): number {
  const box = svg.value!.getBoundingClientRect()
  return (
    (Math.atan2(event.clientX - box.left - box.width / 2, box.top + box.height / 2 - event.clientY) * 180) /
    Math.PI
  )
}
function grab(event: PointerEvent): void {
  svg.value!.setPointerCapture(event.pointerId)
  last = at(event)
  sum = angle.value
}
function drag(event: PointerEvent): void {
  if (last === null) return
  const now = at(event)
  sum += ((now - last + 540) % 360) - 180
  last = now
  give(sum / 360 / way.value)
}
function give(turns: number): void {
  const steps = Math.round(Math.min(MOST, Math.max(-MOST, turns)) * props.divisions)
  if (steps / props.divisions !== props.turns) emit('turn', steps / props.divisions)
}
function key(event: KeyboardEvent): void {
  const step = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1 }[event.key]
  if (event.key === 'Home') give(0)
  else if (step) give(props.turns + step / props.divisions)
  else return
  event.preventDefault()
  event.stopPropagation()
}
const marks = computed(() => Array.from({ length: props.divisions }, (_, i) => (i * 360) / props.divisions))
const grips = Array.from({ length: 16 }, (_, i) => (i * 360) / 16)
</script>

<template>
  <svg
    ref="svg"
    viewBox="0 0 100 100"
    class="dial"
    role="slider"
    tabindex="0"
    data-own-keys
    :aria-label="`${name} knob`"
    :aria-valuenow="turns"
    :aria-valuemin="-MOST"
    :aria-valuemax="MOST"
    :aria-valuetext="said"
    :font-family="FONT"
    @pointerdown="grab"
    @pointermove="drag"
    @pointerup="last = null"
    @pointercancel="last = null"
    @keydown="key"
  >
    <line
      v-for="mark in marks"
      :key="mark"
      x1="50"
      y1="4"
      x2="50"
      y2="10"
      :stroke="palette.faint"
      stroke-width="1.4"
      :transform="`rotate(${mark} 50 50)`"
    />
    <g :transform="`rotate(${angle} 50 50)`">
      <circle cx="50" cy="50" r="33" :fill="palette.plate" :stroke="palette.post" stroke-width="2" />
      <rect
        v-for="grip in grips"
        :key="grip"
        x="48.2"
        y="14"
        width="3.6"
        height="6"
        rx="1"
        :fill="palette.post"
        :transform="`rotate(${grip} 50 50)`"
      />
      <polygon points="50,11 45,22 55,22" :fill="palette.mark" />
    </g>
    <text
      x="50"
      y="52"
      text-anchor="middle"
      dominant-baseline="central"
      font-size="19"
      font-weight="700"
      :fill="palette.ink"
    >
      {{ turns === 0 ? '0' : (turns > 0 ? '+' : '−') + figures }}
    </text>
  </svg>
</template>

<style scoped>
.dial {
  width: 100%;
  height: auto;
  display: block;
  cursor: grab;
  touch-action: none;
  border-radius: 50%;
  outline-offset: -2px;
}
</style>
