<script setup lang="ts">
// A control with what it is called above it, and below it what helps or what is wrong.
defineProps<{
  label?: string
  id?: string
  /** The term that a tap on the label explains. */
  term?: string
  help?: string
  wrong?: string
}>()
</script>

<template>
  <el-form-item :label="label" :for="id" :error="wrong" label-position="top">
    <template v-if="term && label" #label
      ><TermHint :term="term">{{ label }}</TermHint></template
    >
    <slot />
    <p v-if="help" class="help">{{ help }}</p>
    <slot name="help" />
  </el-form-item>
</template>

<style scoped>
.help {
  width: 100%;
  font-size: 0.9rem;
  line-height: 1.35;
  color: var(--ink-2);
}
</style>
