<script setup lang="ts">
// The print that proves bed and offset together, and how it was judged.
import { computed } from 'vue'
import type { Schemas } from '@/api/client'

const props = defineProps<{ visit: Schemas['VisitOut'] }>()
const step = computed(() => props.visit.route.find((one) => one.name === 'first-layer'))
const proved = computed(() => step.value?.state === 'done')
</script>

<template>
  <section v-if="!visit.ended_at" class="sheet stack" aria-label="Print and judge">
    <h2>{{ proved ? 'Printed and judged' : 'Print it and judge it' }}</h2>
    <p>{{ step?.why }}</p>
    <p class="row">
      <RouterLink
        class="el-button go"
        :class="proved ? '' : 'el-button--primary'"
        :to="{ path: `/visits/${visit.id}/offset`, query: { way: 'bed' } }"
        >Patches over the bed</RouterLink
      >
      <RouterLink class="el-button go" :to="`/visits/${visit.id}/looks`">How a first layer looks</RouterLink>
    </p>
    <CautionNote>
      Stay with the first layer, hand near the power switch. If the tip scrapes, stop the print at once.
    </CautionNote>
  </section>
</template>

<style scoped>
.go {
  text-decoration: none;
}
</style>
