<script setup lang="ts">
// Which round of measuring of the visit is looked at.
import type { Schemas } from '@/api/client'
import { spreadOf } from '@/shell/format'

defineProps<{ rounds: Schemas['RoundOut'][]; round: number }>()
defineEmits<{ round: [index: number] }>()
</script>

<template>
  <el-segmented
    v-if="rounds.length > 1"
    :model-value="round"
    :options="rounds.map((_, i) => ({ label: `Round ${i + 1}`, value: i }))"
    aria-label="Rounds"
    class="rounds"
    @update:model-value="$emit('round', $event as number)"
  >
    <template #default="{ item }">
      {{ item.label }} <span class="quiet small">{{ spreadOf(rounds[item.value]!.survey) }}</span>
    </template>
  </el-segmented>
</template>

<style scoped>
.rounds {
  justify-self: start;
  max-width: 100%;
  overflow-x: auto;
}
</style>
