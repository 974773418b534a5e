<script setup lang="ts">
import { helpOpen, SHORTCUTS, shortcutsOn } from './shortcuts'
</script>

<template>
  <el-dialog v-model="helpOpen" title="Keys" width="min(94vw, 460px)">
    <el-descriptions :column="1" border class="facts">
      <el-descriptions-item v-for="one in SHORTCUTS" :key="one.key"
        ><template #label>{{ one.key }}</template
        >{{ one.does }}</el-descriptions-item
      >
    </el-descriptions>
    <p class="row keys">
      <el-checkbox v-model="shortcutsOn">Use single keys as shortcuts</el-checkbox>
    </p>
  </el-dialog>
</template>

<style scoped>
.keys {
  margin-top: 12px;
}
</style>
