<script setup lang="ts">
import { watchEffect } from 'vue'
import type { Schemas } from '@/api/client'
import { useMap } from '@/api/shown'
import ReliefMap from '@/bed/ReliefMap.vue'

const props = defineProps<{ survey: number; screws: Schemas['ScrewOut'][]; label: string; limit: number }>()
const emit = defineEmits<{ relief: [relief: Schemas['Relief']] }>()
const { data } = useMap(() => props.survey)
watchEffect(() => data.value && emit('relief', data.value.measured_relief))
</script>

<template>
  <ReliefMap
    v-if="data"
    small
    :bed="data.bed"
    :relief="data.measured_relief"
    :limit="limit"
    :screws="screws"
    :label="label"
  />
  <WaitBox v-else says="Drawing …" kind="map" />
</template>
