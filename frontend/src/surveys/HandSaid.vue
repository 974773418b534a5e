<script setup lang="ts">
// What the readings by hand say so far.
import type { Schemas } from '@/api/client'
import { mm } from '@/shell/format'

defineProps<{ shown: Schemas['Preview'] }>()
</script>

<template>
  <div class="stack">
    <p v-if="shown.figures.at_least !== null">
      <b>At least {{ mm(shown.figures.at_least) }}</b> from highest to lowest.
    </p>
    <p v-else>
      <b>{{ mm(shown.figures.spread) }}</b> from highest to lowest, each trusted to ±{{
        mm(2 * (shown.noise ?? 0))
      }}.
    </p>
    <CautionNote v-for="one in shown.aside" :key="one.place">
      {{ one.sentence }} You can put it back on the map.
    </CautionNote>
    <p v-if="shown.next_place" class="small" aria-live="polite">{{ shown.next_place }}</p>
    <p v-for="one in shown.assumptions" :key="one" class="small">{{ one }}</p>
  </div>
</template>
