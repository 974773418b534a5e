<script setup lang="ts">
// The tip scrapes: the next ten seconds, then what to look at before the next start, and only then causes.
import { ref } from 'vue'
import { sendKeyed, sentence, type Schemas } from '@/api/client'
import { offsets } from '@/api/offsets'
import { useChange } from '@/api/queries'
import { newKey } from '@/shell/format'
import { tell } from '@/shell/undo'

const props = defineProps<{ printer: number; visit: number | null }>()
const key = ref(newKey())
const written = ref(false)
const trouble = ref('')
const record = useChange((body: Schemas['ChangeIn']) => offsets.change(props.printer, body))
const undo = useChange(offsets.removeChange)
async function write(): Promise<void> {
  trouble.value = ''
  try {
    const made = await sendKeyed(key, (client_key) =>
      record.mutateAsync({
        client_key,
        what: 'crash',
        visit_id: props.visit,
        note: 'The tip scraped the plate.',
      }),
    )
    key.value = newKey()
    written.value = true
    tell('Written down: the list says what to look at, in order.', async () => {
      await undo.mutateAsync(made.id)
      written.value = false
    })
  } catch (e) {
    trouble.value = sentence(e)
  }
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
    <p v-if="trouble">{{ trouble }}</p>
    <p v-if="written">
      Written down.
      <RouterLink :to="visit === null ? `/printers/${printer}` : `/visits/${visit}`">To the list</RouterLink>
    </p>
    <p v-else>
      <el-button :loading="record.isPending.value" @click="write"
        >Write it down, and show me the list</el-button
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
