<script setup lang="ts">
// When the records were copied last, that the copy was read back, one more, and taking one away.
import { computed, ref } from 'vue'
import { call, useApiQuery } from '@/api/ask'
import { send, useSending } from '@/api/change'
import { sentence, type Schemas } from '@/api/client'
import { attempt } from '@/shell/undo'
import { ago, asDate, asTime } from '@/shell/format'
import type { Column } from '@/components/rows'
import { copyText } from '@/shell/copy'

const KINDS: Record<Schemas['BackupOut']['kind'], string> = {
  daily: 'by itself',
  'by-hand': 'by hand',
  'before-restore': 'before records were brought back',
}
const { data, error } = useApiQuery('/api/backups')
const last = computed(() => data.value?.backups[0])
const keep = ref<number>()
const making = useSending({ aloud: true, patient: false })
const back = () => making.run(() => call('post', '/api/backups', {}), 'The backup was made and read back.')
const plan = (on: boolean, kept: number): Promise<void> =>
  attempt(
    () => send('put', '/api/backups/schedule', {}, { on, hours: data.value!.hours, keep: kept }),
    on ? `A backup is made every day; the newest ${kept} are kept.` : 'No backup is made by itself any more.',
  )
const size = (bytes: number): string =>
  bytes < 1_000_000 ? `${Math.max(1, Math.round(bytes / 1000))} kB` : `${(bytes / 1_000_000).toFixed(1)} MB`
const stale = computed(
  () => last.value && Date.now() - new Date(last.value.made_at).getTime() > 3 * 86_400_000,
)
const copy = (text: string): Promise<void> => copyText(text, 'Mark the text instead.')
const command = computed(() => `finchwort restore ${data.value?.folder}/${last.value?.name ?? 'FILE'}`)
const COLUMNS: Column<Schemas['BackupOut']>[] = [
  {
    key: 'made',
    title: 'Made',
    says: (one) => `${asDate(one.made_at)} ${asTime(one.made_at)}`,
    sorts: (one) => one.made_at,
  },
  { key: 'how', title: 'How', says: (one) => KINDS[one.kind] },
  {
    key: 'rows',
    title: 'Rows',
    says: (one) => one.rows.toLocaleString('en-GB'),
    sorts: (one) => one.rows,
    right: true,
  },
  { key: 'size', title: 'Size', says: (one) => size(one.bytes), sorts: (one) => one.bytes, right: true },
  { key: 'file', title: 'Take away', right: true },
]
</script>

<template>
  <TroubleNote v-if="error">{{ sentence(error) }}</TroubleNote>
  <div v-else-if="data" class="stack">
    <h1>Backups</h1>
    <section class="sheet stack" aria-label="Last backup">
      <template v-if="last">
        <p class="verdict">
          Last backup {{ ago(last.made_at) }}, {{ asTime(last.made_at) }}: read back, whole.
        </p>
        <p class="quiet">
          {{ last.rows.toLocaleString('en-GB') }} rows, {{ size(last.bytes) }}. Before a backup counts, it is
          loaded into an empty database and counted.
        </p>
      </template>
      <p v-else class="verdict">No backup yet.</p>
      <TroubleNote v-if="data.trouble">{{ data.trouble }}</TroubleNote>
      <CautionNote v-else-if="stale">That is some days ago. Make one now.</CautionNote>
      <p class="row">
        <el-button type="primary" size="large" :disabled="!data.can" :loading="making.busy" @click="back"
          >Back up now</el-button
        >
      </p>
      <LongWait :busy="making.busy" says="Copying and reading back" name="backup" />
      <el-alert
        v-if="!data.can"
        type="info"
        :closable="false"
        show-icon
        title="Where backups go is not known here. Start it with: finchwort start"
      />
    </section>
    <section class="sheet stack" aria-label="By itself">
      <div class="row spread">
        <h2>Every day, by itself</h2>
        <el-switch
          :model-value="data.on"
          size="large"
          aria-label="Every day, by itself"
          :disabled="!data.can || !data.by_itself"
          @update:model-value="(on: string | number | boolean) => plan(on === true, data!.keep)"
        />
      </div>
      <p v-if="!data.by_itself" class="quiet">The demo workshop makes none by itself.</p>
      <p class="row">
        <label for="keep">How many of these are kept</label
        ><el-input-number
          id="keep"
          :model-value="keep ?? data.keep"
          :min="1"
          :max="100"
          :disabled="!data.on"
          @change="
            (n: number | undefined) => {
              keep = n
              plan(data!.on, n ?? 7)
            }
          "
        />
      </p>
      <p class="small quiet">
        They lie in <code>{{ data.folder }}</code>, on the same disk as the records. Take one away now and
        then: a stick, another computer.
      </p>
    </section>
    <section v-if="data.backups.length" class="sheet stack" aria-label="There are">
      <h2>There are</h2>
      <div class="wide">
        <DataTable :rows="data.backups" :columns="COLUMNS" row-key="name" name="finchwort-backups">
          <template #file="{ row }"
            ><a :href="`/api/backups/${row.name}`" download>Save as a file</a></template
          >
        </DataTable>
      </div>
    </section>
    <section class="sheet stack" aria-label="Bringing records back">
      <h2>Bringing records back</h2>
      <p>On the computer, with Finchwort stopped (<code>finchwort stop</code>):</p>
      <p class="row">
        <code class="command">{{ command }}</code><el-button size="small" @click="copy(command)"
          >Copy</el-button
        >
      </p>
      <p class="small quiet">
        A file that is damaged, cut or from a newer Finchwort is refused. What stands there is copied first.
        Devices that were removed since stay outside.
      </p>
    </section>
  </div>
  <WaitBox v-else says="Opening …" kind="page" />
</template>

<style scoped>
.verdict {
  font-family: var(--head);
  font-size: 1.3rem;
  font-weight: 650;
}
.wide {
  overflow-x: auto;
}
.command {
  overflow-wrap: anywhere;
}
</style>
