<script setup lang="ts">
import { helpOpen, SHORTCUTS, shortcutsOn } from './shortcuts'
</script>

<template>
  <el-dialog v-model="helpOpen" title="Keys" width="min(94vw, 460px)">
    <table class="plain-table">
      <tbody>
        <tr v-for="one in SHORTCUTS" :key="one.key">
          <th scope="row">{{ one.key }}</th>
          <td>{{ one.does }}</td>
        </tr>
      </tbody>
    </table>
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
