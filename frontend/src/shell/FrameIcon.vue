<script setup lang="ts">
// The signs of the frame, drawn by the same pen as the maps.
defineProps<{ name: 'workshop' | 'prints' | 'cases' | 'logbook' | 'find' | 'menu' | 'ground' }>()
</script>

<template>
  <svg viewBox="0 0 24 24" width="22" height="22" aria-hidden="true" class="icon">
    <path v-if="name === 'workshop'" d="M3 20V10l9-6 9 6v10zM9 20v-6h6v6" />
    <path v-else-if="name === 'prints'" d="M3 20h18M6 20v-6h12v6M12 11V8M9 3h6v3l-3 3-3-3z" />
    <path v-else-if="name === 'cases'" d="M3 18h18M5 18c1-5 4-8 7-8M16 14c1 1 2 2 3 4M14 5l2 2 4-4" />
    <path v-else-if="name === 'logbook'" d="M5 4h13v16H5zM5 8H3M5 12H3M5 16H3M9 9h6M9 13h6" />
    <template v-else-if="name === 'find'">
      <circle cx="10.5" cy="10.5" r="6" />
      <path d="M15 15l6 6" />
    </template>
    <path
      v-else-if="name === 'menu'"
      d="M3 7c3-2 6 2 9 0s6 2 9 0M3 13c3-2 6 2 9 0s6 2 9 0M3 19c3-2 6 2 9 0s6 2 9 0"
    />
    <template v-else>
      <circle cx="12" cy="12" r="8" />
      <path d="M12 4a8 8 0 0 1 0 16z" class="full" />
    </template>
  </svg>
</template>

<style scoped>
.icon {
  fill: none;
  stroke: currentColor;
  stroke-width: 2;
  stroke-linejoin: round;
  stroke-linecap: round;
  flex: none;
}
.full {
  fill: currentColor;
}
</style>
