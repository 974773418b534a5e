<script setup lang="ts">
// What good looks like at a look: lines that touch, a closed sheet, corners that lie down, a part that stands.
import { palette } from '@/bed/palette'
import type { Schemas } from '@/api/client'

defineProps<{ kind: Schemas['WantedLookOut']['kind']; label: string }>()
const ROWS = [26, 40, 54, 68]
/** Lines of the fill: where each lies, and how far down it reaches beside the notch. */
const FILL = Array.from({ length: 17 }, (_, i) => [56 + 8 * i, i > 5 && i < 11 ? 66 : 92] as const)
</script>

<template>
  <svg viewBox="0 0 240 120" class="look" role="img" :aria-label="label">
    <g v-if="kind === 'lines'" :stroke="palette.ink" stroke-linejoin="round">
      <!-- from above, each touching the next -->
      <rect x="8" y="16" width="104" height="64" rx="3" :fill="palette.plate" stroke="none" />
      <line
        v-for="y in ROWS"
        :key="y"
        x1="16"
        x2="104"
        :y1="y - 4"
        :y2="y - 4"
        :stroke="palette.tint(0)"
        stroke-width="13"
      />
      <path v-for="y in ROWS.slice(1)" :key="`s${y}`" :d="`M16 ${y - 11}H104`" stroke-width="1" />
      <!-- the same in section -->
      <line x1="128" x2="232" y1="80" y2="80" stroke-width="2.5" />
      <rect
        v-for="i in [0, 1, 2, 3]"
        :key="i"
        :x="136 + 22 * i"
        y="68"
        width="23"
        height="12"
        rx="6"
        :fill="palette.tint(0)"
        stroke-width="1.6"
      />
      <path d="M202 66l-9-16v-26h36v26l-9 16z" :fill="palette.post" stroke-width="1.6" />
    </g>
    <g v-else-if="kind === 'layer'" :stroke="palette.ink" stroke-linejoin="round">
      <rect x="30" y="8" width="180" height="104" rx="10" fill="none" stroke-width="3" />
      <path d="M50 22h140v76h-56v-26h-28v26h-56z" :fill="palette.tint(0)" stroke-width="2" />
      <path v-for="[x, low] in FILL" :key="x" :d="`M${x} ${low}V28`" stroke-width="0.7" />
    </g>
    <g v-else :stroke="palette.ink" stroke-linejoin="round">
      <line x1="10" x2="230" y1="104" y2="104" stroke-width="3" />
      <path v-if="kind === 'five'" d="M46 104v-14h148v14z" :fill="palette.tint(0)" stroke-width="2" />
      <template v-else-if="kind === 'quarter'">
        <path d="M56 104v-40h128v40z" :fill="palette.tint(0)" stroke-width="2" />
        <path d="M56 94h128M56 84h128M56 74h128" stroke-width="0.8" />
      </template>
      <template v-else>
        <path d="M88 104v-74h64v74z" :fill="palette.tint(0)" stroke-width="2" />
        <path d="M72 104v-6h96v6" :fill="palette.tint(0)" stroke-width="2" />
        <path d="M88 90h64M88 76h64M88 62h64M88 48h64" stroke-width="0.8" />
      </template>
      <path
        :transform="`translate(0 ${kind === 'five' ? 0 : kind === 'quarter' ? -26 : -60})`"
        d="M146 88l-10-16v-24h36v24l-10 16z"
        :fill="palette.post"
        stroke-width="1.6"
      />
      <!-- both feet down -->
      <g fill="none" stroke-width="2.4" stroke="var(--good)">
        <path :d="`M${kind === 'later' ? 66 : kind === 'five' ? 36 : 46} 114l5 5 9-11`" />
        <path :d="`M${kind === 'later' ? 158 : kind === 'five' ? 186 : 176} 114l5 5 9-11`" />
      </g>
    </g>
  </svg>
</template>

<style scoped>
.look {
  display: block;
  width: 100%;
  max-width: 420px;
  max-height: 210px;
}
</style>
