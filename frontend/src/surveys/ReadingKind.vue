<script setup lang="ts">
// What readings are: heights or gaps, in mm or µm.
defineProps<{ values: 'height' | 'gap'; unit: 'mm' | 'um' }>()
defineEmits<{ values: [values: 'height' | 'gap']; unit: [unit: 'mm' | 'um'] }>()
</script>

<template>
  <el-radio-group
    :model-value="values"
    aria-label="What the values are"
    @update:model-value="$emit('values', $event as 'height' | 'gap')"
  >
    <el-radio-button value="height">Heights</el-radio-button
    ><el-radio-button value="gap">Gaps</el-radio-button>
  </el-radio-group>
  <el-radio-group
    :model-value="unit"
    aria-label="Unit"
    @update:model-value="$emit('unit', $event as 'mm' | 'um')"
  >
    <el-radio-button value="mm">mm</el-radio-button><el-radio-button value="um">µm</el-radio-button>
  </el-radio-group>
</template>
