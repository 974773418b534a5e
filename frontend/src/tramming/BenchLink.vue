<script setup lang="ts">
// To the card at the bench; where levelling was begun already, go on with it.
import { computed } from 'vue'
import { useApiQuery } from '@/api/ask'
import { count } from '@/shell/format'

const props = defineProps<{ visit: number }>()
const { data } = useApiQuery('/api/visits/{visit_id}/bench', () => ({ visit_id: props.visit }), {
  once: true,
})
const steps = computed(() => data.value?.steps.length ?? 0)
</script>

<template>
  <RouterLink class="el-button el-button--primary el-button--large go" :to="`/visits/${visit}/bench`">{{
    steps ? `Go on at the bench, ${count(steps, 'step')} so far` : 'Level at the bench'
  }}</RouterLink>
</template>

<style scoped>
.go {
  text-decoration: none;
}
</style>
