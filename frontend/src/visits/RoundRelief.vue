<script setup lang="ts">
import { useMap } from '@/api/queries'
import type { Schemas } from '@/api/client'
import ReliefMap from '@/drawing/ReliefMap.vue'

const props = defineProps<{ survey: number; screws: Schemas['ScrewOut'][]; label: string }>()
const { data } = useMap(() => props.survey)
</script>

<template>
  <ReliefMap v-if="data" small :bed="data.bed" :relief="data.measured_relief" :screws="screws" :label="label" />
  <p v-else class="quiet" role="status">Drawing …</p>
</template>
