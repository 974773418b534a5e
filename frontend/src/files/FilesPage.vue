<script setup lang="ts">
// The file that the slicer wrote, dropped here before it is printed; and those that were looked at before.
import { useIntervalFn, useLocalStorage } from '@vueuse/core'
import { computed, onUnmounted, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useApiQuery } from '@/api/ask'
import { sendFile, Stopped, type Sending } from '@/api/bytes'
import { changing, takeAway } from '@/api/change'
import { sentence, type Schemas } from '@/api/client'
import { useWorkshop } from '@/api/shown'
import { ago, count, newKey, query } from '@/shell/format'
import { useTrail } from '@/shell/trail'
import { lasts } from './lasts'

/** MB: on this computer, and over the network, where a file is held in memory. */
const [MOST, MOST_FAR] = [300, 24]
const near = ['127.0.0.1', 'localhost'].includes(window.location.hostname)
const most = near ? MOST : MOST_FAR
// how long reading took the last time on this device, ms for each MB
const pace = useLocalStorage('finchwort-file-pace', 90)
const route = useRoute()
const router = useRouter()
const { data: workshop } = useWorkshop()
const { data, error } = useApiQuery('/api/files')
const chosen = useLocalStorage<number>('finchwort-file-printer', 0)
// from the page of a printer it is for that one
if (Number(route.query.printer)) chosen.value = Number(route.query.printer)
const printers = computed(() => workshop.value?.cards.map((card) => card.printer) ?? [])
const printer = computed(() => printers.value.find((one) => one.id === chosen.value)?.id ?? 0)
const under = ref<{ name: string; size: number; sent: number; since: number; now: number } | null>(null)
const clock = useIntervalFn(() => under.value && (under.value.now = Date.now()), 250, { immediate: false })
const trouble = ref('')
let sending: Sending<Schemas['FileOut']> | null = null

async function take(file: File): Promise<void> {
  trouble.value = ''
  if (file.size > most * 1_000_000)
    return void (trouble.value = near
      ? `${file.name} is larger than ${MOST} MB, which is more than is read.`
      : `${file.name} is larger than ${MOST_FAR} MB. Pack it (zip), or drop it on the computer that Finchwort runs on.`)
  const size = file.size / 1_000_000
  under.value = { name: file.name, size, sent: 0, since: 0, now: Date.now() }
  clock.resume()
  const asks = {
    name: file.name,
    client_key: newKey(),
    ...(printer.value ? { printer_id: printer.value } : {}),
  }
  sending = sendFile(`/api/files?${query(asks)}`, file, (share) => {
    if (under.value) Object.assign(under.value, { sent: share, since: share < 1 ? 0 : Date.now() })
  })
  try {
    const made = await changing(() => sending!.done)
    if (size > 1 && under.value?.since) pace.value = Math.max(10, (Date.now() - under.value.since) / size)
    await router.push(`/files/${made.id}`)
  } catch (problem) {
    if (!(problem instanceof Stopped)) trouble.value = sentence(problem)
  } finally {
    clock.pause()
    under.value = null
    sending = null
  }
}
onUnmounted(() => sending?.stop())
/** Of the way from here to what was found: sending is a tenth, reading the rest. */
const done = computed(() => {
  if (!under.value) return 0
  const { sent, since, now, size } = under.value
  return since ? Math.min(0.99, 0.1 + (0.9 * (now - since)) / Math.max(pace.value * size, 300)) : 0.1 * sent
})
const left = computed(() => {
  if (!under.value) return ''
  const { since, now, size } = under.value
  const seconds = (pace.value * size - (since ? now - since : 0)) / 1000
  return seconds > 1 ? `about ${Math.ceil(seconds)} s left` : 'almost there'
})
useTrail(() => [{ name: 'Before a print' }])
</script>

<template>
  <div class="stack">
    <h1>Before a print</h1>
    <section class="sheet stack" aria-label="Drop a file">
      <p>
        The file that your slicer wrote says what this print will do on your bed: where its first layer will
        let go, which part lets go first, and what to change before you start it.
      </p>
      <div class="row printers">
        <ChoiceField id="file-for" v-model="chosen" label="For which printer">
          <el-option :value="0" label="not said yet" />
          <el-option v-for="one in printers" :key="one.id" :value="one.id" :label="one.name" />
        </ChoiceField>
      </div>
      <div v-if="under" class="stack">
        <p role="status">Reading {{ under.name }}, {{ left }} …</p>
        <el-progress
          :percentage="Math.round(100 * done)"
          :show-text="false"
          :stroke-width="10"
          aria-label="How much of the file is read"
        />
        <p><el-button @click="sending?.stop()">Stop</el-button></p>
      </div>
      <FileDrop
        v-else
        drop
        label="The G-code, as it is or packed (zip, gz)."
        accept=".gcode,.gco,.g,.gc,.nc,.ngc,.tap,.txt,.zip,.gz"
        @file="take"
      />
      <TroubleNote v-if="trouble">{{ trouble }}</TroubleNote>
      <p class="quiet small">
        It is read where Finchwort runs, and goes nowhere else. Only its first layers, its settings and its
        sums are kept; nothing is started.
      </p>
    </section>
    <TroubleNote v-if="error">{{ sentence(error) }}</TroubleNote>
    <section v-else-if="data" class="sheet stack" aria-label="Files">
      <h2>Looked at before</h2>
      <p v-if="!data.files.length" class="quiet">
        No file yet. Without one,
        <RouterLink to="/part">check a part by its size and settings</RouterLink>.
      </p>
      <ul class="plain">
        <li v-for="one in data.files" :key="one.id" class="row spread">
          <span
            ><RouterLink :to="`/files/${one.id}`"
              ><b>{{ one.name }}</b></RouterLink
            ><br /><span class="quiet small"
              >{{ one.printer ?? 'no printer' }}, {{ count(one.parts, 'part') }}, {{ lasts(one.minutes) }},
              {{ ago(one.created_at) }}</span
            ></span
          ><el-button
            text
            :aria-label="`Delete ${one.name}`"
            @click="takeAway('/api/files/{file_id}', { file_id: one.id }, `${one.name} was deleted.`)"
            >Delete</el-button
          >
        </li>
      </ul>
    </section>
    <WaitBox v-else says="Looking for files …" />
  </div>
</template>

<style scoped>
.plain {
  list-style: none;
  margin: 0;
  padding: 0;
}
.plain li {
  padding: 8px 0;
  border-top: 1px solid var(--line);
}
.printers > * {
  width: 16em;
}
</style>
