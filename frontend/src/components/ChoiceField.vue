<script setup lang="ts" generic="T extends string | number">
// One of several, unfolded where it stands.  What stands for nothing is an option like any other.
import { useGiven } from './given'

defineOptions({ inheritAttrs: false })
defineProps<{
  modelValue: T | null | undefined
  label: string
  id?: string
  /** What is called so already, by a row or a column. */
  unnamed?: boolean
  term?: string
  help?: string
  wrong?: string
}>()
const emit = defineEmits<{ 'update:modelValue': [value: T] }>()
const given = useGiven()
</script>

<template>
  <FormField
    :id="id"
    :class="given.ofRoot"
    :label="unnamed ? undefined : label"
    :term="term"
    :help="help"
    :wrong="wrong"
  >
    <el-select
      :id="id"
      :model-value="modelValue ?? undefined"
      :aria-label="label"
      :empty-values="[null, undefined]"
      :fit-input-width="false"
      v-bind="given.rest"
      @update:model-value="emit('update:modelValue', $event as T)"
    >
      <slot />
    </el-select>
    <template v-if="$slots.help" #help><slot name="help" /></template>
  </FormField>
</template>
