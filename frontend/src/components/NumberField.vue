<script setup lang="ts">
// A figure as people type it, its unit inside.  The kit's own field for numbers holds nothing but numbers: a comma and
// a draft that is half typed are lost in it.  So this is its field for text, with steppers where stepping helps.
import { computed, ref, watch } from 'vue'
import { useGiven } from './given'
import { figure, parseNumber } from '@/shell/format'

defineOptions({ inheritAttrs: false })
const props = defineProps<{
  label: string
  id?: string
  unit?: string
  /** What is called so already, by a row or a column. */
  unnamed?: boolean
  /** By how much a tap on − or + changes it; no steppers without. */
  step?: number
  term?: string
  help?: string
  wrong?: string
}>()
const model = defineModel<string>({ required: true })
const given = useGiven()
// read aloud with its unit, which the eye finds in the field
const spoken = computed(() => (props.unit ? `${props.label}, ${props.unit}` : props.label))
const digits = computed(() => String(props.step ?? 1).split('.')[1]?.length ?? 0)
function turn(way: 1 | -1): void {
  const next = (parseNumber(model.value) ?? 0) + way * props.step!
  model.value = figure(next, false, digits.value).replace('−', '-')
}
// what is no number is said once one is done with it, not while it is half typed
const left = ref(false)
watch(model, () => (left.value = false))
const said = computed(
  () =>
    props.wrong ||
    (left.value && model.value.trim() && parseNumber(model.value) === null
      ? 'This is no number. Type it like 0.15 or 0,15.'
      : undefined),
)
const field = ref<{ focus: () => void; select: () => void } | null>(null)
defineExpose({ focus: () => field.value?.focus(), select: () => field.value?.select() })
</script>

<template>
  <FormField
    :id="id"
    :class="given.ofRoot"
    :label="unnamed ? undefined : label"
    :term="term"
    :help="help"
    :wrong="said"
  >
    <div class="figure">
      <el-button v-if="step" class="turn" :aria-label="`${label}: ${step} less`" @click="turn(-1)"
        >−</el-button
      >
      <el-input
        :id="id"
        ref="field"
        v-model="model"
        inputmode="decimal"
        autocomplete="off"
        :aria-label="spoken"
        :aria-invalid="said ? true : undefined"
        v-bind="given.rest"
        @blur="left = true"
        @keydown.enter="left = true"
      >
        <template v-if="unit" #suffix>{{ unit }}</template>
      </el-input>
      <el-button v-if="step" class="turn" :aria-label="`${label}: ${step} more`" @click="turn(1)"
        >+</el-button
      >
    </div>
    <template v-if="$slots.help" #help><slot name="help" /></template>
  </FormField>
</template>

<style scoped>
.figure {
  display: flex;
  width: 100%;
  gap: 4px;
}
.turn {
  flex: none;
  width: 44px;
  height: auto;
  min-height: 40px;
  padding: 0;
  font-size: 1.2rem;
}
.turn + .el-input,
.el-input + .turn {
  margin-left: 0;
}
</style>
