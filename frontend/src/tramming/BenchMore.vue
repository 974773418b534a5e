<script setup lang="ts">
// Why this corner, the others, and what was done.
import type { Schemas } from '@/api/client'
import { useFeels } from '@/api/shown'
import { mm } from '@/shell/format'

defineProps<{ data: Schemas['BenchOut']; place: number | null }>()
defineEmits<{ choose: [place: number] }>()
const { data: feels } = useFeels()
const short = (feel: string): string => feels.value?.feels.find((one) => one.key === feel)?.short ?? ''
</script>

<template>
  <FoldPart title="Why this one, other corners, what was done" class="more">
    <p class="small">{{ data.why }}</p>
    <p class="small">
      What is known so far:
      <template v-if="data.high !== null"
        >between {{ mm(data.low!) }} and {{ mm(data.high) }} from corner to corner.</template
      ><template v-else>not enough to say.</template>
    </p>
    <div class="row" role="group" aria-label="Another place">
      <el-button
        v-for="(p, i) in data.places"
        :key="p.name"
        size="small"
        :type="i === place ? 'primary' : undefined"
        @click="$emit('choose', i)"
        >{{ p.name }}{{ p.feel ? `: ${short(p.feel)}` : '' }}</el-button
      >
    </div>
    <ol v-if="data.steps.length" class="small steps">
      <li v-for="s in data.steps.slice(-8)" :key="s.id">{{ s.sentence }}</li>
    </ol>
  </FoldPart>
</template>

<style scoped>
.more {
  width: 100%;
}
.steps {
  margin: 0;
  padding-left: 1.4em;
}
</style>
