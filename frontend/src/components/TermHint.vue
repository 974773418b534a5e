<script setup lang="ts">
// A word that a tap explains: one sentence, a picture, and the way to all the others.
import { computed, ref, watch } from 'vue'
import { useTerms } from '@/api/shown'
import TermDrawing from './TermDrawing.vue'

const props = defineProps<{ term: string }>()
const open = ref(false)
const wanted = ref(false)
const { data, isError } = useTerms(wanted)
// the kit takes the attributes of what it hangs on for its own, so this one is set past it
const word = ref<HTMLButtonElement | null>(null)
watch([open, word], () => word.value?.setAttribute('aria-expanded', String(open.value)), { flush: 'post' })
const found = computed(() => data.value?.terms.find((one) => one.key === props.term))
</script>

<template>
  <!-- eslint-disable vue/no-restricted-html-elements --
  a word within a sentence breaks with its line, which a button of the kit does not -->
  <el-popover
    v-model:visible="open"
    trigger="click"
    :width="300"
    popper-class="term-card"
    :persistent="false"
    @before-enter="wanted = true"
  >
    <template #reference>
      <button ref="word" type="button" class="hint" @keydown.esc="open = false"><slot /></button>
    </template>
    <div role="note" :aria-label="found?.name" class="stack">
      <template v-if="found">
        <b>{{ found.name }}</b>
        <p>{{ found.says }}</p>
        <TermDrawing v-if="found.draw" :of="found.draw" />
        <RouterLink :to="`/terms#${found.key}`">All terms</RouterLink>
      </template>
      <p v-else>{{ isError ? 'Finchwort does not answer just now.' : 'Looking it up …' }}</p>
    </div>
  </el-popover>
</template>

<style scoped>
.hint {
  display: inline;
  padding: 0;
  border: 0;
  background: none;
  font: inherit;
  color: inherit;
  text-align: inherit;
  text-decoration: underline dotted 1.5px;
  text-underline-offset: 3px;
  cursor: help;
  /* a thumb hits more than the letters */
  position: relative;
}
.hint::after {
  content: '';
  position: absolute;
  inset: -8px -4px;
}
</style>
