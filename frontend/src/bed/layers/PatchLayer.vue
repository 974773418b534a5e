<script setup lang="ts">
// What a test print lays on the bed, each with its number or with how it was judged; places where the tip only stops.
import { computed } from 'vue'
import { useCanvas } from '../canvas'
import { palette } from '../palette'
import type { Patch } from '../patch'

const props = defineProps<{ patches: Patch[]; pickable?: boolean }>()
const emit = defineEmits<{ pick: [number: number]; key: [number: number, key: string] }>()
const { unit, X, Y } = useCanvas()
const stops = computed(() => props.patches.filter((p) => p.size === 0))
const laid = computed(() => props.patches.filter((p) => p.size > 0))
const fill = (p: Patch): string => (p.tint === undefined ? palette.value.ground : palette.value.tint(p.tint))
// on the deepest tints the lettering must be light
const text = (p: Patch): string => (Math.abs(p.tint ?? 0) > 0.7 ? palette.value.ground : palette.value.ink)
const size = (p: Patch): number => Math.min(unit.value * 14, p.size * 0.6)
function press(p: Patch, event: KeyboardEvent): void {
  if (!props.pickable) return
  if (event.key === 'Enter' || event.key === ' ') {
    event.preventDefault()
    emit('pick', p.number)
  } else if (/^[1-5]$/.test(event.key)) {
    event.stopPropagation()
    emit('key', p.number, event.key)
  }
}
</script>

<template>
  <g
    v-for="p in laid"
    :key="p.number"
    class="patch"
    :class="{ pickable }"
    :role="pickable ? 'button' : undefined"
    :tabindex="pickable ? 0 : undefined"
    :aria-label="pickable ? p.label : undefined"
    @click="pickable && $emit('pick', p.number)"
    @keydown="press(p, $event)"
  >
    <circle
      v-if="pickable"
      :cx="X(p.x)"
      :cy="Y(p.y)"
      :r="Math.max(p.size / 2, unit * 18)"
      fill="transparent"
    />
    <circle
      v-if="p.round"
      class="shape"
      :cx="X(p.x)"
      :cy="Y(p.y)"
      :r="Math.max(p.size / 2, unit * 11)"
      :fill="fill(p)"
      :stroke="palette.ink"
      :stroke-width="unit * 1.5"
    />
    <rect
      v-else
      class="shape"
      :x="X(p.x - p.size / 2)"
      :y="Y(p.y + p.size / 2)"
      :width="p.size"
      :height="p.size"
      :fill="fill(p)"
      :stroke="palette.ink"
      :stroke-width="unit * 1.5"
    />
    <text
      :x="X(p.x)"
      :y="Y(p.y) + size(p) * 0.36"
      text-anchor="middle"
      :font-size="p.round ? unit * 12 : size(p)"
      font-weight="650"
      :fill="text(p)"
    >
      {{ p.letter ?? p.number }}
    </text>
  </g>
  <g v-for="p in stops" :key="p.number" :transform="`translate(${X(p.x)} ${Y(p.y)})`">
    <circle :r="unit * 11" :fill="palette.ground" :stroke="palette.ink" :stroke-width="unit * 2" />
    <text :y="unit * 4.5" text-anchor="middle" :font-size="unit * 13" font-weight="650" :fill="palette.ink">
      {{ p.number }}
    </text>
  </g>
</template>

<style scoped>
.pickable {
  cursor: pointer;
}
.patch:focus-visible {
  outline: none;
}
.patch:focus-visible .shape {
  stroke: var(--accent);
  stroke-width: 2.5;
  paint-order: stroke;
}
</style>
