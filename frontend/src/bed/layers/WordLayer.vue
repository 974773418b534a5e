<script setup lang="ts">
// Words around the plate: front and back, its corners, and what to do at a screw.
import { computed } from 'vue'
import { useCanvas } from '../canvas'
import { palette } from '../palette'
import type { PostNote } from '../spots'
import MapText from './MapText.vue'

const props = defineProps<{
  notes: PostNote[]
  posts: { name: string; x: number; y: number }[]
  corners: boolean
}>()
const { bed, box, unit, textSize, small, X, Y } = useCanvas()
const middle = computed(() => (bed.value.y_min + bed.value.y_max) / 2)
const above = (y: number): number => Y(Math.max(bed.value.plate.y_max, y)) - unit.value * 8
const below = (y: number): number => Y(Math.min(bed.value.plate.y_min, y)) + unit.value * 19
const said = computed(() =>
  props.notes.flatMap((note) =>
    props.posts
      .filter((post) => post.name === note.name)
      .map((post) => ({
        ...note,
        x: Math.min(Math.max(X(post.x), unit.value * 52), box.value.width - unit.value * 52),
        y: post.y > middle.value ? above(post.y) : below(post.y),
      })),
  ),
)
const named = computed(() => {
  const { x_min, x_max, y_min, y_max } = bed.value
  return [
    { name: 'front left', x: x_min, y: below(y_min), anchor: 'start' },
    { name: 'front right', x: x_max, y: below(y_min), anchor: 'end' },
    { name: 'back right', x: x_max, y: above(y_max), anchor: 'end' },
    { name: 'back left', x: x_min, y: above(y_max), anchor: 'start' },
  ]
})
// a third from the left: the middle belongs to notes
const third = computed(() => X(bed.value.x_min + (bed.value.x_max - bed.value.x_min) * 0.33))
</script>

<template>
  <MapText v-for="one in said" :key="`n${one.name}`" :x="one.x" :y="one.y" :size="1.12" :weight="700" mark>
    {{ one.text }}
  </MapText>
  <template v-if="corners">
    <MapText
      v-for="corner in named"
      :key="corner.name"
      :x="X(corner.x)"
      :y="corner.y"
      :text-anchor="corner.anchor"
      :size="1.05"
      :weight="700"
    >
      {{ corner.name }}
    </MapText>
  </template>
  <g v-if="!small" text-anchor="middle" :font-size="textSize" :fill="palette.faint">
    <text :x="third" :y="box.height - unit * 5">front</text>
    <text :x="third" :y="unit * 13">back</text>
  </g>
</template>
