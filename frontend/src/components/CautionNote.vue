<script setup lang="ts">
// What can hurt somebody or spoil something, said where it is done.  It stands there from the beginning, so it is no
// alarm that a screen reader breaks in with.
</script>

<template>
  <el-alert class="caution" type="warning" role="note" :closable="false"><slot /></el-alert>
</template>
