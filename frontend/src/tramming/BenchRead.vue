<script setup lang="ts">
// How far the tip was moved at the middle until the strip just dragged.
import { ref } from 'vue'
import { parseNumber } from '@/shell/format'

const emit = defineEmits<{ read: [value: number]; lacks: [sentence: string] }>()
const lowered = ref('')
const way = ref<1 | -1>(-1)
function read(): void {
  const value = parseNumber(lowered.value)
  if (value === null || value < 0) return emit('lacks', 'Write how far in mm, like 0.06.')
  emit('read', way.value * value)
  lowered.value = ''
}
</script>

<template>
  <el-form class="stack read" @submit.prevent="read">
    <label class="label" for="lowered"
      >How much? Move the tip at the centre until the strip just drags, and type how far.</label
    >
    <div class="row">
      <el-radio-group v-model="way" aria-label="Which way the tip went"
        ><el-radio-button :value="-1">lower by</el-radio-button
        ><el-radio-button :value="1">higher by</el-radio-button></el-radio-group
      ><el-input id="lowered" v-model="lowered" inputmode="decimal" class="short" placeholder="0.06" /> mm
      <el-button native-type="submit">That far</el-button>
    </div>
  </el-form>
</template>

<style scoped>
.read {
  width: 100%;
}
.short {
  width: 6em;
}
</style>
