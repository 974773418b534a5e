<script setup lang="ts">
// The file that the slicer wrote, dropped here before it is printed; and those that were looked at before.
import { useLocalStorage } from '@vueuse/core'
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useApiQuery } from '@/api/ask'
import { sendFile } from '@/api/bytes'
import { changing, takeAway } from '@/api/change'
import { sentence, type Schemas } from '@/api/client'
import { useWorkshop } from '@/api/shown'
import { ago, count, newKey, query } from '@/shell/format'
import { useTrail } from '@/shell/trail'
import FileTaker from './FileTaker.vue'
import { lasts } from './lasts'
import { useFileSending } from './sending'

const route = useRoute()
const router = useRouter()
const { data: workshop } = useWorkshop()
const { data, error } = useApiQuery('/api/files')
const chosen = useLocalStorage<number>('finchwort-file-printer', 0)
// from the page of a printer it is for that one
if (Number(route.query.printer)) chosen.value = Number(route.query.printer)
const printers = computed(() => workshop.value?.cards.map((card) => card.printer) ?? [])
const printer = computed(() => printers.value.find((one) => one.id === chosen.value)?.id ?? 0)
const sending = useFileSending('pace')

async function take(file: File): Promise<void> {
  const asks = {
    name: file.name,
    client_key: newKey(),
    ...(printer.value ? { printer_id: printer.value } : {}),
  }
  const made = await changing(() =>
    sending.send(file, (one, progress) =>
      sendFile<Schemas['FileOut']>(`/api/files?${query(asks)}`, one, progress),
    ),
  )
  if (made) await router.push(`/files/${made.id}`)
}
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
      <FileTaker
        :sending="sending"
        says="Reading"
        label="The G-code, as it is or packed (zip, gz)."
        @file="take"
      />
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
