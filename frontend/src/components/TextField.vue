<script setup lang="ts">
// A line or a few lines of words.
import { ref } from 'vue'
import { useGiven } from './given'

defineOptions({ inheritAttrs: false })
defineProps<{ label: string; id?: string; help?: string; wrong?: string }>()
const model = defineModel<string>({ required: true })
const given = useGiven()
const field = ref<{ focus: () => void; select: () => void } | null>(null)
defineExpose({ focus: () => field.value?.focus(), select: () => field.value?.select() })
</script>

<template>
  <FormField :id="id" :class="given.ofRoot" :label="label" :help="help" :wrong="wrong">
    <el-input
      :id="id"
      ref="field"
      v-model="model"
      :aria-invalid="wrong ? true : undefined"
      v-bind="given.rest"
    />
  </FormField>
</template>
