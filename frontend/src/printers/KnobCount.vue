<script setup lang="ts">
// A bed seen from above, with what carries it.
defineProps<{ kind: '4' | '3' | 'pads' | 'none' }>()
const AT: Record<'4' | '3' | 'pads' | 'none', [number, number][]> = {
  '4': [
    [8, 8],
    [48, 8],
    [48, 32],
    [8, 32],
  ],
  '3': [
    [8, 32],
    [48, 32],
    [28, 8],
  ],
  pads: [
    [8, 8],
    [48, 8],
    [48, 32],
    [8, 32],
  ],
  none: [],
}
</script>

<template>
  <svg class="bed" viewBox="0 0 56 40" width="70" height="50" aria-hidden="true">
    <rect x="2" y="2" width="52" height="36" rx="3" fill="none" stroke="currentColor" stroke-width="1.5" />
    <template v-for="[x, y] in AT[kind]" :key="`${x} ${y}`">
      <rect
        v-if="kind === 'pads'"
        :x="x - 5"
        :y="y - 2.5"
        width="10"
        height="5"
        fill="currentColor"
        opacity="0.6"
      />
      <circle v-else :cx="x" :cy="y" r="4.5" fill="none" stroke="currentColor" stroke-width="2" />
    </template>
    <text v-if="kind === 'none'" x="28" y="26" text-anchor="middle" font-size="18" fill="currentColor">
      ?
    </text>
  </svg>
</template>

<style scoped>
.bed {
  flex: none;
}
</style>
