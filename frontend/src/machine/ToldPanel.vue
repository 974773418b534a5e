<script setup lang="ts">
// What the printer said of itself at connecting, beside the book.
import { useApiQuery } from '@/api/ask'
import { asDay, asTime } from '@/shell/format'

const props = defineProps<{ printer: number }>()
const { data } = useApiQuery('/api/printers/{printer_id}/told', () => ({ printer_id: props.printer }))
const WORDS = { same: 'as written down', other: 'otherwise', new: 'new', untold: 'not told' } as const
</script>

<template>
  <section v-if="data?.at" class="sheet stack" aria-label="What stands in the printer">
    <h2>What stands in the printer</h2>
    <p class="small quiet">
      As it said itself, {{ asDay(data.at) }}, {{ asTime(data.at)
      }}{{ data.machine ? ` · ${data.machine}` : '' }}
    </p>
    <table class="plain-table">
      <thead>
        <tr>
          <th scope="col" />
          <th scope="col">The printer</th>
          <th scope="col">The book</th>
        </tr>
      </thead>
      <tbody>
        <template v-for="row in data.rows" :key="row.name">
          <tr :class="row.state" :data-told="row.name">
            <th scope="row">{{ row.title }}</th>
            <td>{{ row.says.replace(/ mm/g, '\u00a0mm') || '–' }}</td>
            <td>
              {{ row.book.replace(/ mm/g, '\u00a0mm') || '–'
              }}<span class="small state">{{ WORDS[row.state] }}</span>
            </td>
          </tr>
          <tr v-if="row.sentence" :class="row.state" :data-told-why="row.name">
            <td colspan="3" class="small said">{{ row.sentence }}</td>
          </tr>
        </template>
      </tbody>
    </table>
    <p v-if="data.untold" class="small quiet">{{ data.untold }}</p>
    <p v-if="data.can.length" class="small quiet">It says it can: {{ data.can.join(', ') }}.</p>
  </section>
</template>

<style scoped>
td,
th {
  vertical-align: top;
}
.state {
  display: block;
  color: var(--ink-2);
  white-space: nowrap;
}
.said {
  border-top: 0;
  padding-top: 0;
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
