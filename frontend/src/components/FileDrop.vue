<script setup lang="ts">
// A file of one's own, chosen or dropped here; it is read in the browser and goes nowhere by itself.
import type { UploadFile } from 'element-plus'

defineProps<{ label: string; accept: string; drop?: boolean }>()
const emit = defineEmits<{ file: [file: File] }>()
const taken = (one: UploadFile): void => {
  if (one.raw) emit('file', one.raw)
}
</script>

<template>
  <el-upload
    :auto-upload="false"
    :show-file-list="false"
    :accept="accept"
    :drag="drop"
    class="file"
    :aria-label="label"
    :on-change="taken"
  >
    <span v-if="drop">{{ label }}<span class="quiet small"> Drop it here, or tap to choose it.</span></span>
    <span v-else class="el-button">{{ label }}</span>
  </el-upload>
</template>

<style scoped>
.file :deep(.el-upload-dragger) {
  padding: 14px 16px;
  background: transparent;
  color: var(--ink);
}
</style>
