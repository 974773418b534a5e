<script setup lang="ts">
// Stop a machine: at once, or after the reading it is at.
import type { Schemas } from '@/api/client'

defineProps<{ job: Schemas['JobLineOut'] }>()
defineEmits<{ leave: []; end: [how: 'soft' | 'now'] }>()
</script>

<template>
  <el-dialog
    :model-value="true"
    :title="`Stop ${job.printer}?`"
    width="min(94vw, 420px)"
    @close="$emit('leave')"
  >
    <div class="row">
      <el-button type="danger" size="large" @click="$emit('end', 'now')">Stop now</el-button>
      <el-button v-if="job.has_steps" size="large" @click="$emit('end', 'soft')"
        >After this reading</el-button
      >
    </div>
  </el-dialog>
</template>
