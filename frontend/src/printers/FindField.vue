<script setup lang="ts">
// Find a printer among many.
const search = defineModel<string>({ required: true })
</script>

<template>
  <label class="visually-hidden" for="find-printer">Find a printer</label>
  <el-input id="find-printer" v-model="search" type="search" placeholder="Find a printer" />
</template>
