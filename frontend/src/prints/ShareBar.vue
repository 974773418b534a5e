<script setup lang="ts">
// A share and how sure it is: the line reaches as far as the records allow, the mark is what held.
import { palette } from '@/bed/palette'
import type { Schemas } from '@/api/client'

defineProps<{ share: Schemas['ShareOut'] }>()
const W = 160
</script>

<template>
  <svg :viewBox="`0 0 ${W} 18`" class="share" role="img" :aria-label="share.words">
    <rect
      x="0"
      y="7"
      :width="W"
      height="4"
      rx="2"
      :fill="palette.halo"
      :stroke="palette.faint"
      stroke-width="0.8"
    />
    <template v-if="share.told">
      <rect
        :x="W * share.low"
        y="5"
        :width="Math.max(W * (share.high - share.low), 2)"
        height="8"
        rx="3"
        :fill="palette.tint(share.few ? -0.2 : -0.5)"
        :stroke="palette.ink"
        stroke-width="0.8"
      />
      <path :d="`M${(W * share.held) / share.told} 1v16`" :stroke="palette.ink" stroke-width="2.6" />
    </template>
  </svg>
</template>

<style scoped>
.share {
  display: block;
  width: 160px;
  height: 18px;
  overflow: visible;
}
</style>
