<script setup lang="ts">
// Readings as spot heights; those that count for nothing are crossed out.
import { computed } from 'vue'
import { useCanvas } from '../canvas'
import { palette } from '../palette'
import { NUMBERED, type Spot } from '../spots'
import MapText from './MapText.vue'

const props = defineProps<{
  spots: Spot[]
  crossed: { x: number; y: number; counts: boolean }[]
  pickable: boolean
}>()
const emit = defineEmits<{ spot: [index: number] }>()
const { unit, X, Y } = useCanvas()
const numbers = computed(() => props.spots.length <= NUMBERED)
// so many dots would be a grey cloth, and slow
const marks = computed(() => (props.spots.length <= 900 ? props.spots : []))
const out = computed(() => props.crossed.filter((one) => !one.counts))
const cross = (x: number, y: number): string => {
  const r = unit.value * 7
  return `M${x - r},${y - r}l${2 * r},${2 * r}m0,${-2 * r}l${-2 * r},${2 * r}`
}
</script>

<template>
  <g
    v-for="(spot, i) in marks"
    :key="`s${i}`"
    :class="{ spot: pickable }"
    @click="pickable && ($event.stopPropagation(), emit('spot', i))"
  >
    <circle v-if="pickable" :cx="X(spot.x)" :cy="Y(spot.y)" :r="unit * 16" fill="transparent" data-screen />
    <circle
      v-if="spot.current"
      :cx="X(spot.x)"
      :cy="Y(spot.y)"
      :r="unit * 11"
      fill="none"
      :stroke="palette.mark"
      :stroke-width="unit * 3"
    />
    <circle
      :cx="X(spot.x)"
      :cy="Y(spot.y)"
      :r="unit * (numbers ? 2.6 : 1.4)"
      :fill="spot.text ? palette.ink : palette.halo"
      :stroke="palette.ink"
      :stroke-width="unit"
    />
    <MapText v-if="numbers && spot.text" :x="X(spot.x)" :y="Y(spot.y) - unit * 7">{{ spot.text }}</MapText>
  </g>
  <path
    v-for="one in out"
    :key="`c${one.x},${one.y}`"
    :d="cross(X(one.x), Y(one.y))"
    fill="none"
    :stroke="palette.mark"
    :stroke-width="unit * 2.6"
  />
</template>

<style scoped>
.spot {
  cursor: pointer;
}
</style>
