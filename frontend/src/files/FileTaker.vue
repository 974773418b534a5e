<script setup lang="ts">
// A place to drop a file, and, while it is on its way, how far it is, how long it takes, and a way to stop.
import type { useFileSending } from './sending'

defineProps<{ sending: ReturnType<typeof useFileSending>; says: string; label: string }>()
const emit = defineEmits<{ file: [file: File] }>()
</script>

<template>
  <div v-if="sending.under" class="stack">
    <p role="status">{{ says }} {{ sending.under.name }}, {{ sending.left }} …</p>
    <el-progress
      :percentage="Math.round(100 * sending.done)"
      :show-text="false"
      :stroke-width="10"
      aria-label="How far the file is"
    />
    <p><el-button @click="sending.stop()">Stop</el-button></p>
  </div>
  <FileDrop
    v-else
    drop
    :label="label"
    accept=".gcode,.gco,.g,.gc,.nc,.ngc,.tap,.txt,.zip,.gz"
    @file="(file: File) => emit('file', file)"
  />
  <TroubleNote v-if="sending.trouble">{{ sending.trouble }}</TroubleNote>
</template>
