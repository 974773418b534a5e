<script setup lang="ts">
// What Finchwort believes of first layers that fail: the table, and what closed cases made of it.
import { useApiQuery } from '@/api/ask'
import { send, takeAway, useSubmit } from '@/api/change'
import { sentence, type Schemas } from '@/api/client'
import type { Column } from '@/components/rows'
import { count } from '@/shell/format'
import { useTrail } from '@/shell/trail'

const { data, error } = useApiQuery('/api/beliefs')
const merge = useSubmit('post', '/api/beliefs/imports', () => ({}), {
  said: 'Taken in.',
  undo: (made) => send('delete', '/api/beliefs/imports/{import_id}', { import_id: made.id }),
})
async function take(file: File): Promise<void> {
  if (file.size > 1_000_000) return void merge.lacks('This file is too large for counted cases.')
  let counts
  try {
    counts = JSON.parse(await file.text()) as Record<string, never>
  } catch {
    return void merge.lacks('This file is no JSON. Take the one that “Export” writes.')
  }
  await merge.submit({ name: file.name.replace(/\.json$/, ''), counts })
}
const drop = (id: number) =>
  takeAway('/api/beliefs/imports/{import_id}', { import_id: id }, 'Taken out again.')
const percent = (p: number): string => `${(100 * p).toFixed(p < 0.1 ? 1 : 0)} %`
const COLUMNS: Column<Schemas['BeliefsOut']['causes'][number]['signs'][number]>[] = [
  { key: 'sign', title: 'Sign', says: (s) => s.sign },
  { key: 'table', title: 'Table', says: (s) => percent(s.table), sorts: (s) => s.table, right: true },
  { key: 'now', title: 'Now', says: (s) => percent(s.now), sorts: (s) => s.now, right: true },
  { key: 'told', title: 'Told', says: (s) => percent(s.told), sorts: (s) => s.told, right: true },
  {
    key: 'mistaken',
    title: 'By mistake',
    says: (s) => percent(s.mistaken),
    sorts: (s) => s.mistaken,
    right: true,
  },
  { key: 'seen', title: 'Seen', says: (s) => s.seen, right: true },
  { key: 'absent', title: 'Not seen', says: (s) => s.absent, right: true },
]
useTrail(() => [{ name: 'Cases', to: '/cases' }, { name: 'What Finchwort believes' }])
</script>

<template>
  <TroubleNote v-if="error">{{ sentence(error) }}</TroubleNote>
  <div v-else-if="data" class="stack">
    <h1>What Finchwort believes</h1>
    <section class="sheet stack">
      <p>
        How often each cause is behind a complaint, and how often each sign shows with it: first estimates of
        common practice, moved by {{ count(data.cases, 'closed case') }}. Opening a case again takes its count
        out. What people tell is not always there: “told” says how often a sign is told when it is, “by
        mistake” how often when it is not.
      </p>
      <p><a href="/api/beliefs.json" download>Export your counts</a></p>
      <FileDrop
        label="Take another workshop’s counts in."
        accept=".json,application/json"
        drop
        @file="take"
      />
      <TroubleNote v-if="merge.trouble">{{ merge.trouble }}</TroubleNote>
      <ul v-if="data.imports.length">
        <li v-for="i in data.imports" :key="i.id" class="row spread">
          <span>{{ i.name }}: {{ count(i.cases, 'case') }}</span
          ><el-button text size="small" :aria-label="`Take ${i.name} out`" @click="drop(i.id)"
            >Take out</el-button
          >
        </li>
      </ul>
    </section>
    <section class="sheet stack" aria-label="Causes">
      <h2>Causes</h2>
      <FoldPart v-for="c in data.causes" :key="c.key" late
        ><template #title
          ><b>{{ c.name }}</b
          >{{ ' '
          }}<span class="quiet"
            >{{ percent(c.now) }} of complaints{{
              c.cases ? ` (table ${percent(c.table)}, ${count(c.cases, 'case')})` : ''
            }}</span
          ></template
        >
        <p class="small">{{ c.remedy }} <span class="quiet">Common practice.</span></p>
        <DataTable :rows="c.signs" :columns="COLUMNS" row-key="sign" :name="`signs-of-${c.key}`" />
      </FoldPart>
    </section>
    <section class="sheet stack" aria-label="Checks">
      <h2>Checks</h2>
      <FoldPart v-for="c in data.checks" :key="c.title"
        ><template #title
          ><b>{{ c.title }}</b> <span class="quiet">{{ c.minutes }} min</span></template
        >
        <p class="small">
          {{ c.how }} <span class="quiet">{{ c.outcomes.join(' · ') }}</span>
        </p>
      </FoldPart>
    </section>
  </div>
  <WaitBox v-else says="Opening …" kind="page" />
</template>

<style scoped>
.fold {
  border-top: 1px solid var(--line);
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
th {
  font-weight: 400;
}
</style>
