<script setup lang="ts">
// What the printer said of itself at connecting, beside the book.
import { useApiQuery } from '@/api/ask'
import type { Schemas } from '@/api/client'
import type { Column } from '@/components/rows'
import { asDay, asTime } from '@/shell/format'

const props = defineProps<{ printer: number }>()
const { data } = useApiQuery('/api/printers/{printer_id}/told', () => ({ printer_id: props.printer }))
const WORDS = { same: 'as written down', other: 'otherwise', new: 'new', untold: 'not told' } as const
const unbroken = (words: string): string => words.replace(/ mm/g, '\u00a0mm') || '–'
const COLUMNS: Column<Schemas['ToldOut']['rows'][number]>[] = [
  { key: 'title', title: 'What', says: (row) => row.title },
  { key: 'says', title: 'The printer', says: (row) => unbroken(row.says) },
  { key: 'book', title: 'The book', says: (row) => unbroken(row.book) },
]
</script>

<template>
  <section v-if="data?.at" class="sheet stack" aria-label="What stands in the printer">
    <h2>What stands in the printer</h2>
    <p class="small quiet">
      As it said itself, {{ asDay(data.at) }}, {{ asTime(data.at)
      }}{{ data.machine ? ` · ${data.machine}` : '' }}
    </p>
    <DataTable still :rows="data.rows" :columns="COLUMNS" row-key="name" name="told">
      <template #book="{ row }">
        <span :data-told="row.name" :class="row.state"
          >{{ unbroken(row.book) }}<span class="small state">{{ WORDS[row.state] }}</span></span
        >
        <span v-if="row.sentence" :class="row.state" :data-told-why="row.name"
          ><span class="small said">{{ row.sentence }}</span></span
        >
      </template>
    </DataTable>
    <p v-if="data.untold" class="small quiet">{{ data.untold }}</p>
    <p v-if="data.can.length" class="small quiet">It says it can: {{ data.can.join(', ') }}.</p>
  </section>
</template>

<style scoped>
.state {
  display: block;
  color: var(--ink-2);
  white-space: nowrap;
}
.said {
  display: block;
}
.other .state,
.other .said {
  color: var(--act);
  font-weight: 600;
}
.same .state {
  color: var(--good);
}
</style>
