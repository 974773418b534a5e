<script setup lang="ts">
// Which way round the bed lies.
import { useCanvas } from '../canvas'
import { palette } from '../palette'

const { box, unit, textSize } = useCanvas()
</script>

<template>
  <g text-anchor="middle" :font-size="textSize" :fill="palette.faint">
    <text :x="box.width / 2" :y="unit * 14">back</text>
    <text :x="box.width / 2" :y="box.height - unit * 8">front</text>
  </g>
</template>
