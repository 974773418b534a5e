<script setup lang="ts">
// A correction: which way, how far, and the number to type in.
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { figure, mm } from '@/shell/format'

const props = defineProps<{ found: Schemas['NewOffsetOut']; trimmed?: boolean; busy: boolean }>()
defineEmits<{ stored: [] }>()
const direction = computed(() => (Math.abs(props.found.closer) >= 0.005 ? `${mm(Math.abs(props.found.closer))} ${props.found.closer > 0 ? 'closer' : 'farther'}` : 'nothing at all'))
const title = computed(() => (props.found.enough || Math.abs(props.found.closer) < 0.005 ? 'Leave it' : props.trimmed ? `You went ${direction.value}` : `Go ${direction.value}`))
const leave = computed(() => title.value === 'Leave it')
</script>

<template>
  <section class="sheet stack" aria-label="New offset" aria-live="polite">
    <template v-if="found.refused">
      <h2>Do not use this offset</h2>
      <p class="trouble" role="alert">{{ found.refused }}</p>
    </template>
    <template v-else>
      <h2>{{ title }}</h2>
      <p v-if="!leave && !found.known" class="caution">Write down what stands in the machine now, and ask again: then this gives the number to type in.</p>
      <p v-else-if="!leave" class="type-in">Type <b class="number">{{ figure(found.value!, true) }}</b> mm into {{ found.label }} <span class="quiet">(was {{ figure(found.before, true) }})</span></p>
      <p>{{ found.sentence }}</p>
      <template v-if="found.turns.length"><h3>For the tilt</h3><ul><li v-for="t in found.turns" :key="t">{{ t }}</li></ul></template>
      <p v-if="!leave && found.known"><el-button type="primary" size="large" :loading="busy" @click="$emit('stored')">I stored this</el-button></p>
    </template>
  </section>
</template>

<style scoped>
.type-in {
  font-size: 1.25rem;
}
.type-in b {
  font-size: 1.6rem;
}
</style>
