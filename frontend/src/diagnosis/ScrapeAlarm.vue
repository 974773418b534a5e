<script setup lang="ts">
// The tip scrapes: the next ten seconds, then what to look at before the next start, and only then causes.
import { ref } from 'vue'
import { send, useSubmit } from '@/api/change'

const props = defineProps<{ printer: number; visit: number | null }>()
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
  <section class="alarm stack" role="alert" aria-label="The tip scrapes">
    <h2>Stop the print now</h2>
    <p>
      The power switch, if nothing else is quick. Do not pull at head or bed; leave the fan on if you can. Let
      it cool.
    </p>
    <FoldPart title="Before the next start" open>
      <ol>
        <li>Tip: rounded or scored? Replace it.</li>
        <li>Plate: scratched? Turn it, or replace it.</li>
        <li>Probe and its mount: still firm, still where it was?</li>
        <li>Z offset: found again with paper, from above.</li>
      </ol>
    </FoldPart>
    <p v-if="record.trouble">{{ record.trouble }}</p>
    <p v-if="written">
      Written down.
      <RouterLink :to="visit === null ? `/printers/${printer}` : `/visits/${visit}`">To the list</RouterLink>
    </p>
    <p v-else>
      <el-button :loading="record.busy" @click="write">Write it down, and show me the list</el-button>
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
.alarm h2 {
  color: #fff;
}
ol {
  margin: 6px 0 0;
  padding-left: 22px;
}
a {
  color: #fff;
}
</style>
