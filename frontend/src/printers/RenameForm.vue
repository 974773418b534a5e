<script setup lang="ts">
// The workshop's name.
import { ref } from 'vue'
import { call } from '@/api/ask'
import { useSending } from '@/api/change'

const props = defineProps<{ name: string; version: number }>()
const emit = defineEmits<{ done: [] }>()
const name = ref(props.name)
const sending = useSending({ aloud: true, patient: false })
async function save(): Promise<void> {
  const { version } = props
  if (await sending.run(() => call('put', '/api/workshop', {}, { name: name.value, version }))) emit('done')
}
</script>

<template>
  <el-form class="row" @submit.prevent="save">
    <label class="visually-hidden" for="workshop-name">Name of the workshop</label>
    <el-input id="workshop-name" v-model="name" class="name" maxlength="80" />
    <el-button type="primary" native-type="submit" :loading="sending.busy">Save the name</el-button>
    <el-button @click="$emit('done')">Cancel</el-button>
  </el-form>
</template>

<style scoped>
.name {
  width: min(70vw, 340px);
  font-size: 1.2rem;
}
</style>
