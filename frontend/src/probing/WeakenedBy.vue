<script setup lang="ts">
// What was found before and weakens the judgement shown here.
defineProps<{ said: string[] }>()
</script>

<template>
  <section v-if="said.length" class="weak stack" aria-label="What weakens this">
    <p v-for="one in said" :key="one">{{ one }}</p>
  </section>
</template>

<style scoped>
.weak {
  background: var(--mild-ground);
  border-left: 4px solid var(--mild);
  padding: 8px 12px;
  border-radius: 0 var(--round) var(--round) 0;
  gap: 6px;
}
</style>
