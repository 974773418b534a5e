<script setup lang="ts">
// What went wrong, and what was kept: read aloud as soon as it is there.
</script>

<template>
  <el-alert class="trouble" type="error" :closable="false"><slot /></el-alert>
</template>
