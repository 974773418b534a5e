<script setup lang="ts">
defineProps<{ level: string; word: string }>()
</script>

<template>
  <span class="badge" :class="level">
    <svg viewBox="0 0 16 16" width="16" height="16" aria-hidden="true">
      <path
        v-if="level === 'level'"
        d="M2 8.5l4 4 8-9"
        fill="none"
        stroke="currentColor"
        stroke-width="2.4"
      />
      <path
        v-else-if="level === 'turn'"
        d="M13.5 8a5.5 5.5 0 1 1-2-4.2M12 .8v3.4H8.6"
        fill="none"
        stroke="currentColor"
        stroke-width="2"
      />
      <path
        v-else-if="level === 'compensate'"
        d="M1 10c3 0 3-5 7-5s4 5 7 5"
        fill="none"
        stroke="currentColor"
        stroke-width="2.2"
      />
      <path v-else d="M8 1.5l7 13H1zM8 6v4M8 11.6v1.4" fill="none" stroke="currentColor" stroke-width="1.8" />
    </svg>
    {{ word }}
  </span>
</template>

<style scoped>
.badge {
  display: inline-flex;
  gap: 6px;
  align-items: center;
  padding: 2px 9px 2px 7px;
  border-radius: 4px;
  font-weight: 650;
  color: var(--mild);
  background: var(--mild-ground);
}
.level {
  color: var(--good);
  background: var(--good-ground);
}
.turn {
  color: var(--act);
  background: var(--act-ground);
}
.warped {
  color: var(--bad);
  background: var(--bad-ground);
}
svg {
  flex: none;
}
</style>
