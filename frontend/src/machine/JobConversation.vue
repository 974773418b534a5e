<script setup lang="ts">
// The raw conversation of a job, as it comes.
import { useIntervalFn } from '@vueuse/core'
import { onMounted, ref } from 'vue'
import { ask } from '@/api/ask'
import { sentence, type Schemas } from '@/api/client'

const props = defineProps<{ job: number; live: boolean }>()
const lines = ref<Schemas['SaidOut'][]>([])
const trouble = ref('')
let busy = false

async function more(): Promise<void> {
  if (busy) return
  busy = true
  try {
    let got
    do {
      got = (
        await ask('/api/jobs/{job_id}/conversation', {
          job_id: props.job,
          after: lines.value.at(-1)?.id ?? 0,
        })
      ).lines
      lines.value.push(...got)
    } while (got.length === 500)
    trouble.value = ''
  } catch (e) {
    trouble.value = sentence(e)
  } finally {
    busy = false
  }
}
onMounted(more)
useIntervalFn(() => props.live && void more(), 1200)
</script>

<template>
  <div>
    <TroubleNote v-if="trouble">{{ trouble }}</TroubleNote>
    <p v-else-if="!lines.length" class="quiet small">Nothing was said yet.</p>
    <pre
      v-else
      tabindex="0"
      aria-label="Conversation with the printer"
    ><span v-for="one in lines" :key="one.id" :class="{ sent: one.way === '>' }">{{ one.way }} {{ one.text }}
</span></pre>
  </div>
</template>

<style scoped>
pre {
  max-height: 280px;
  overflow: auto;
  margin: 0;
  padding: 8px;
  font-size: 0.82rem;
  background: var(--sheet-2);
  border-radius: var(--round);
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}
.sent {
  font-weight: 700;
}
</style>
