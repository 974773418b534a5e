<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { figure, mm } from '@/shell/format'
import { FONT, palette } from './palette'

const props = defineProps<{
  relief: Schemas['Relief']
  limit?: number
  beyond?: boolean
  compact?: boolean
}>()
const bands = computed(() => {
  const { low, high, step, levels } = props.relief
  const limit = props.limit || props.relief.limit
  const edges = [...levels]
  if (edges.length === 0)
    return [{ from: low, colour: palette.value.tint((low + high) / 2 / limit), label: null as string | null }]
  const list = [
    {
      from: edges[0]! - step,
      colour: palette.value.tint((edges[0]! - step / 2) / limit),
      label: null as string | null,
    },
  ]
  for (const edge of edges)
    list.push({
      from: edge,
      colour: palette.value.tint((edge + step / 2) / limit),
      label: figure(edge, edge > 0),
    })
  return list
})
// the compact one says heights on the nozzle's own scale, the other one heights above the datum it names
const from = computed(() => (props.compact ? props.relief.datum : 0))
const W = 360
const cell = computed(() => W / bands.value.length)
</script>

<template>
  <figure class="legend">
    <svg
      :viewBox="`0 0 ${W} ${compact ? 14 : 34}`"
      :preserveAspectRatio="compact ? 'none' : undefined"
      :class="{ compact }"
      role="img"
      :aria-label="`Legend: from ${mm(relief.low + from, true)} to ${mm(relief.high + from, true)}`"
      :font-family="FONT"
    >
      <g v-for="(band, i) in bands" :key="i">
        <rect :x="i * cell" y="0" :width="cell + 0.5" height="14" :fill="band.colour" />
        <line
          v-if="band.label !== null"
          :x1="i * cell"
          y1="0"
          :x2="i * cell"
          :y2="compact ? 14 : 18"
          :stroke="palette.ink"
          :stroke-width="Number(band.from) === 0 ? 2 : 0.8"
          :stroke-dasharray="band.from < 0 ? '3 2' : undefined"
        />
        <text
          v-if="band.label !== null && !compact"
          :x="i * cell"
          y="30"
          text-anchor="middle"
          font-size="12"
          :fill="palette.ink"
        >
          {{ band.label }}
        </text>
      </g>
      <rect x="0.5" y="0.5" :width="W - 1" height="13" fill="none" :stroke="palette.faint" />
    </svg>
    <figcaption v-if="compact" class="tiny quiet">
      <span>{{ figure(relief.low + from, true) }}</span><span>height, mm</span
      ><span>{{ figure(relief.high + from, true) }}</span>
    </figcaption>
    <figcaption v-else class="small quiet">
      <span>low: nozzle far</span><span>height in mm</span><span>high: nozzle near</span>
    </figcaption>
    <p v-if="relief.datum !== 0 && !compact" class="small quiet">
      Shown from the mean height, {{ mm(relief.datum, true) }} on the nozzle's scale.
    </p>
    <p v-if="beyond" class="small quiet">
      Hatched: beyond your outermost readings, so only carried on from them.
    </p>
  </figure>
</template>

<style scoped>
.legend {
  margin: 0;
}
svg {
  width: 100%;
  max-width: 420px;
  display: block;
  margin: 0 auto;
  overflow: visible;
}
figcaption {
  display: flex;
  justify-content: space-between;
  max-width: 420px;
  margin: 0 auto;
}
p {
  text-align: center;
}
.compact {
  height: 8px;
  margin: 4px 0 0;
}
.tiny {
  font-size: 0.82rem;
}
</style>
