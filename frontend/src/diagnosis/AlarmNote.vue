<script setup lang="ts">
// What comes before every cause: the next ten seconds, then what to look at before the next start.
import { ref } from 'vue'
import { send, useSubmit } from '@/api/change'
import type { Schemas } from '@/api/client'

const props = defineProps<{
  alarm: Schemas['AlarmOut']
  printer: number
  visit: number | null
  /** A case is open: what was done can be said, and causes are looked for from there. */
  open?: boolean
  busy?: boolean
}>()
defineEmits<{ safe: [] }>()
const written = ref(false)
const record = useSubmit(
  'post',
  '/api/printers/{printer_id}/changes',
  () => ({ printer_id: props.printer }),
  {
    said: 'Written down: the list says what to look at, in order.',
    undo: async (made) => {
      await send('delete', '/api/changes/{change_id}', { change_id: made.id })
      written.value = false
    },
  },
)
async function write(): Promise<void> {
  if (await record.submit({ what: 'crash', visit_id: props.visit, note: 'The tip scraped the plate.' }))
    written.value = true
}
</script>

<template>
  <section class="alarm stack" :class="{ over: alarm.dealt_with }" role="alert" :aria-label="alarm.title">
    <h2>{{ alarm.title }}</h2>
    <p>{{ alarm.now }}</p>
    <template v-if="!alarm.dealt_with">
      <h3>Before the next start</h3>
      <ol>
        <li v-for="step in alarm.then" :key="step">{{ step }}</li>
      </ol>
    </template>
    <p v-if="record.trouble">{{ record.trouble }}</p>
    <div v-if="alarm.key === 'scraping'">
      <p v-if="written">
        Written down.
        <RouterLink :to="visit === null ? `/printers/${printer}` : `/visits/${visit}`"
          >To the list</RouterLink
        >
      </p>
      <p v-else>
        <el-button :loading="record.busy" @click="write">Write it down, and show me the list</el-button>
      </p>
    </div>
    <p v-if="open && !alarm.dealt_with">
      <el-button size="large" :loading="busy" @click="$emit('safe')"
        >I have looked at all of it: go on to the causes</el-button
      >
    </p>
  </section>
</template>

<style scoped>
.alarm {
  background: #92232b;
  color: #fff;
  padding: 14px 18px;
  border-radius: var(--round);
}
.alarm h2,
.alarm h3 {
  color: #fff;
}
.over {
  padding: 8px 18px;
}
ol {
  margin: 6px 0 0;
  padding-left: 22px;
}
a {
  color: #fff;
}
</style>
