<script setup lang="ts">
// The file that the slicer wrote, dropped here before it is printed; and those that were looked at before.
import { useLocalStorage } from '@vueuse/core'
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

const MOST = 300
const route = useRoute()
const router = useRouter()
const { data: workshop } = useWorkshop()
const { data, error } = useApiQuery('/api/files')
const chosen = useLocalStorage<number>('finchwort-file-printer', 0)
// from the page of a printer it is for that one
if (Number(route.query.printer)) chosen.value = Number(route.query.printer)
const printers = computed(() => workshop.value?.cards.map((card) => card.printer) ?? [])
const printer = computed(() => printers.value.find((one) => one.id === chosen.value)?.id ?? 0)
const under = ref<{ name: string; share: number; since: number; now: number } | null>(null)
const trouble = ref('')
let sending: Sending<Schemas['FileOut']> | null = null

async function take(file: File): Promise<void> {
  trouble.value = ''
  if (file.size > MOST * 1_000_000)
    return void (trouble.value = `${file.name} is larger than ${MOST} MB, which is more than is read.`)
  under.value = { name: file.name, share: 0, since: Date.now(), now: Date.now() }
  const asks = {
    name: file.name,
    client_key: newKey(),
    ...(printer.value ? { printer_id: printer.value } : {}),
  }
  sending = sendFile(`/api/files?${query(asks)}`, file, (share) => {
    if (under.value) Object.assign(under.value, { share, now: Date.now() })
  })
  try {
    const made = await changing(() => sending!.done)
    await router.push(`/files/${made.id}`)
  } catch (problem) {
    if (!(problem instanceof Stopped)) trouble.value = sentence(problem)
  } finally {
    under.value = null
    sending = null
  }
}
onUnmounted(() => sending?.stop())
const left = computed(() => {
  if (!under.value || under.value.share < 0.02) return ''
  const { share, since, now } = under.value
  const seconds = Math.ceil((((now - since) / share) * (1 - share)) / 1000)
  return share < 1 ? `about ${Math.max(seconds, 1)} s left` : 'almost there'
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
        <p role="status">Reading {{ under.name }}, {{ left || 'a moment' }} …</p>
        <el-progress
          :percentage="Math.round(100 * under.share)"
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
        It is read on this computer. Only its first layers, its settings and its sums are kept; nothing is
        started.
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
.printers {
  max-width: 320px;
}
</style>
