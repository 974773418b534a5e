<script setup lang="ts">
// A line of words, with what is known offered under it; anything else may be typed as well.
import { onMounted, ref } from 'vue'
import { useGiven } from './given'

defineOptions({ inheritAttrs: false })
const props = defineProps<{
  label: string
  id?: string
  known: { value: string; says?: string }[]
  help?: string
  wrong?: string
}>()
const model = defineModel<string>({ required: true })
const given = useGiven()
// the kit names an active entry of the list before there is a list; a screen reader would look for it in vain
const field = ref<{ inputRef?: { ref?: HTMLInputElement } } | null>(null)
onMounted(() => field.value?.inputRef?.ref?.removeAttribute('aria-activedescendant'))
/** What fits comes first; a name that stands there whole hides none of the others. */
function suggest(typed: string): { value: string; says?: string }[] {
  const text = typed.trim().toLowerCase()
  if (!text || props.known.some((one) => one.value.toLowerCase() === text)) return props.known
  return props.known.filter((one) => `${one.value} ${one.says ?? ''}`.toLowerCase().includes(text))
}
</script>

<template>
  <FormField :id="id" :class="given.ofRoot" :label="label" :help="help" :wrong="wrong">
    <el-autocomplete
      :id="id"
      ref="field"
      v-model="model"
      :fetch-suggestions="suggest"
      :debounce="0"
      :aria-label="label"
      v-bind="given.rest"
    >
      <template #default="{ item }"
        ><span>{{ item.value }}</span
        ><span v-if="item.says" class="says">{{ item.says }}</span></template
      >
    </el-autocomplete>
  </FormField>
</template>

<style scoped>
.says {
  margin-left: 10px;
  color: var(--ink-2);
  font-size: 0.9rem;
}
</style>
