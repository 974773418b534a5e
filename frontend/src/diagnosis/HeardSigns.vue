<script setup lang="ts">
// Signs that the person's own words speak of, to be confirmed one by one.
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import { call } from '@/api/ask'
import type { Schemas } from '@/api/client'

type Answer = Schemas['SignOut']['answer']
const props = defineProps<{ words: string; answers: Record<string, Answer> }>()
const emit = defineEmits<{ answer: [sign: string, answer: Answer]; heard: [signs: string[]] }>()
const PAUSE = 500
const heard = ref<Schemas['HeardOut'][]>([])
let timer: ReturnType<typeof setTimeout> | undefined
let under = 0
async function listen(): Promise<void> {
  const mine = ++under
  if (!props.words.trim()) return void (heard.value = [])
  try {
    const found = await call('post', '/api/case-words', {}, { words: props.words })
    if (mine === under) heard.value = found.heard
  } catch {
    // the signs below can be answered without it
    if (mine === under) heard.value = []
  }
}
watch(heard, (all) =>
  emit(
    'heard',
    all.filter((h) => !h.denied).map((h) => h.key),
  ),
)
watch(
  () => props.words,
  () => {
    clearTimeout(timer)
    timer = setTimeout(listen, PAUSE)
  },
  { immediate: true },
)
onBeforeUnmount(() => clearTimeout(timer))
const open = computed(() => heard.value.filter((h) => (props.answers[h.key] ?? 'unknown') === 'unknown'))
</script>

<template>
  <div v-if="open.length" class="heard stack" role="group" aria-label="Did you mean">
    <h3>Did you mean</h3>
    <div v-for="h in open" :key="h.key" class="row spread">
      <span
        ><b>{{ h.ask }}</b
        ><span class="quiet small"> from “{{ h.heard }}”</span></span
      >
      <span class="row">
        <el-button
          :type="h.denied ? undefined : 'primary'"
          :aria-label="`${h.ask}: confirm`"
          @click="$emit('answer', h.key, 'yes')"
          >Yes</el-button
        ><el-button
          :type="h.denied ? 'primary' : undefined"
          :aria-label="`${h.ask}: deny`"
          @click="$emit('answer', h.key, 'no')"
          >No</el-button
        >
      </span>
    </div>
  </div>
</template>

<style scoped>
.heard {
  border-left: 4px solid var(--accent);
  padding-left: 12px;
}
</style>
