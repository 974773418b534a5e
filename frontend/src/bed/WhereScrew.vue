<script setup lang="ts">
// The plate from above with one of its screws picked out, to be found at a glance.
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { FONT, palette } from './palette'

const props = withDefaults(
  defineProps<{
    bed: Schemas['Bed']
    screws: { name: string; x: number; y: number }[]
    name: string
    what?: 'knob' | 'place'
  }>(),
  { what: 'knob' },
)
const plate = computed(() => props.bed.plate)
const size = computed(
  () => Math.max(plate.value.x_max - plate.value.x_min, plate.value.y_max - plate.value.y_min) / 100,
)
const width = computed(() => (plate.value.x_max - plate.value.x_min) / size.value)
const height = computed(() => (plate.value.y_max - plate.value.y_min) / size.value)
// clips and the like, within the picture
const barred = computed(() =>
  (props.bed.keep_off ?? []).map((one) => ({
    name: one.name,
    x: (Math.max(one.x_min, plate.value.x_min) - plate.value.x_min) / size.value,
    y: (plate.value.y_max - Math.min(one.y_max, plate.value.y_max)) / size.value,
    width: (Math.min(one.x_max, plate.value.x_max) - Math.max(one.x_min, plate.value.x_min)) / size.value,
    height: (Math.min(one.y_max, plate.value.y_max) - Math.max(one.y_min, plate.value.y_min)) / size.value,
  })),
)
const posts = computed(() =>
  props.screws.map((s) => ({
    name: s.name,
    x: Math.min(Math.max((s.x - plate.value.x_min) / size.value, 12), width.value - 12),
    y: Math.min(Math.max((plate.value.y_max - s.y) / size.value, 12), height.value - 12),
    here: s.name === props.name,
  })),
)
</script>

<template>
  <svg
    :viewBox="`-2 -2 ${width + 4} ${height + 22}`"
    role="img"
    :aria-label="
      what === 'knob'
        ? `The ${name} knob on the bed, seen from above`
        : 'The place on the bed, seen from above'
    "
    :font-family="FONT"
  >
    <rect
      x="0"
      y="0"
      :width="width"
      :height="height"
      rx="4"
      :fill="palette.plate"
      :stroke="palette.faint"
      stroke-width="1.5"
    />
    <rect
      v-for="one in barred"
      :key="one.name"
      v-bind="one"
      :fill="palette.post"
      fill-opacity="0.35"
      :stroke="palette.post"
    />
    <g v-for="post in posts" :key="post.name">
      <circle v-if="post.here" :cx="post.x" :cy="post.y" r="11" :fill="palette.mark" />
      <circle
        :cx="post.x"
        :cy="post.y"
        :r="what === 'knob' || post.here ? 5 : 2.5"
        :fill="palette.ground"
        :stroke="post.here ? palette.ground : palette.post"
        stroke-width="2"
      />
    </g>
    <text :x="width / 2" :y="height + 16" text-anchor="middle" font-size="15" :fill="palette.faint">
      front
    </text>
  </svg>
</template>
