<script setup lang="ts">
// What a copy that follows the bed would do, what speaks against it, and up to where it follows.
import { watchEffect } from 'vue'
import { useApiQuery } from '@/api/ask'
import { sentence, type Schemas } from '@/api/client'
import { parseNumber } from '@/shell/format'

const props = defineProps<{ file: Schemas['FileOut'] }>()
const top = defineModel<string>('top', { required: true })
const cleared = defineModel<boolean>('cleared', { required: true })
const may = defineModel<boolean>('may', { required: true })
const { data, error } = useApiQuery(
  '/api/files/{file_id}/bend',
  () => ({
    file_id: props.file.id,
    cleared: cleared.value,
    ...(parseNumber(top.value) === null ? {} : { top: parseNumber(top.value)! }),
  }),
  { keep: true },
)
watchEffect(() => (may.value = !error.value && !!data.value && !data.value.reasons.length))
</script>

<template>
  <div class="stack">
    <TroubleNote v-if="error">{{ sentence(error) }}</TroubleNote>
    <template v-else-if="data">
      <p class="say">{{ data.sentence }}</p>
      <p v-for="one in data.notes" :key="one" class="small quiet">{{ one }}</p>
      <TroubleNote v-for="one in data.reasons" :key="one">{{ one }}</TroubleNote>
      <el-checkbox v-if="data.mesh" v-model="cleared"
        >I cleared the mesh: nothing follows the bed in {{ file.printer }} itself</el-checkbox
      >
    </template>
    <WaitBox v-else says="Bending it in thought …" />
    <NumberField
      id="bend-top"
      v-model="top"
      label="Follow the bed, less and less, up to Z"
      unit="mm"
      :placeholder="data ? String(data.top) : ''"
    />
  </div>
</template>

<style scoped>
.say {
  font-size: 1.1rem;
}
</style>
