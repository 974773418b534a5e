<script setup lang="ts">
// Screws and pads; where they can be moved, by pointer and by arrow keys.
import { useCanvas } from '../canvas'
import { palette } from '../palette'
import { ARROWS } from '../arrows'

interface Place {
  name: string
  x: number
  y: number
}
const props = defineProps<{ screws: Place[]; pads: Place[]; movable: boolean }>()
const emit = defineEmits<{
  grab: [name: string, event: PointerEvent]
  move: [name: string, x: number, y: number]
}>()
const { unit, small, X, Y } = useCanvas()

const handle = (what: string, one: Place) =>
  props.movable
    ? {
        tabindex: 0,
        role: 'button',
        class: 'movable',
        'aria-label': `${one.name} ${what} at x ${one.x}, y ${one.y}; arrow keys move it`,
        onPointerdown: (event: PointerEvent) => emit('grab', one.name, event),
        onKeydown: (event: KeyboardEvent) => nudge(one, event),
      }
    : {}
function nudge(one: Place, event: KeyboardEvent): void {
  const way = ARROWS[event.key]
  if (!way) return
  event.preventDefault()
  event.stopPropagation()
  const step = event.shiftKey ? 10 : 1
  emit('move', one.name, one.x + way[0] * step, one.y + way[1] * step)
}
</script>

<template>
  <g v-for="pad in pads" :key="`p${pad.name}`" v-bind="handle('pad', pad)">
    <circle v-if="movable" :cx="X(pad.x)" :cy="Y(pad.y)" :r="unit * 20" fill="transparent" />
    <ellipse
      :cx="X(pad.x)"
      :cy="Y(pad.y)"
      :rx="unit * (small ? 4 : 9)"
      :ry="unit * (small ? 2.4 : 5.5)"
      :fill="palette.ground"
      :stroke="palette.post"
      :stroke-width="unit * (small ? 1.4 : 2.4)"
    />
  </g>
  <g v-for="screw in screws" :key="screw.name" v-bind="handle('screw', screw)">
    <circle v-if="movable" :cx="X(screw.x)" :cy="Y(screw.y)" :r="unit * 20" fill="transparent" />
    <rect
      :x="X(screw.x) - unit * (small ? 3 : 6)"
      :y="Y(screw.y) - unit * (small ? 3 : 6)"
      :width="unit * (small ? 6 : 12)"
      :height="unit * (small ? 6 : 12)"
      :rx="unit * 2"
      :fill="palette.ground"
      :stroke="palette.post"
      :stroke-width="unit * (small ? 1.4 : 2.4)"
    />
    <circle v-if="!small" :cx="X(screw.x)" :cy="Y(screw.y)" :r="unit * 2" :fill="palette.post" />
  </g>
</template>

<style scoped>
.movable {
  cursor: grab;
  touch-action: none;
}
</style>
