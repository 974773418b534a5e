<script setup lang="ts">
import { keepPreviousData, useInfiniteQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, defineAsyncComponent, onMounted, ref } from 'vue'
import { useRoute } from 'vue-router'
import { ask } from '@/api/ask'
import { sentence, type Schemas } from '@/api/client'
import { useWorkshop } from '@/api/shown'
import { asDay } from '@/shell/format'

import EntryList from './EntryList.vue'
import { KINDS } from './kinds'
import NoteForm from './NoteForm.vue'

const DayField = defineAsyncComponent(() => import('./DayField.vue'))
type Kind = Schemas['EntryOut']['kind']
const route = useRoute()
const search = ref('')
const wanted = refDebounced(search, 250)
const kind = ref<Kind | ''>('')
const day = ref<Date | null>(null)
/** The moment a day ends, where the reader is. */
const endOf = (one: Date): string =>
  new Date(one.getFullYear(), one.getMonth(), one.getDate() + 1).toISOString()
const printer = ref<number | ''>(Number(route.query.printer) || '')
const { data: workshop } = useWorkshop()
const filter = computed(() => ({
  ...(wanted.value.trim() ? { q: wanted.value.trim() } : {}),
  ...(kind.value ? { kind: kind.value } : {}),
  ...(printer.value ? { printer: printer.value } : {}),
  ...(day.value ? { until: endOf(day.value) } : {}),
}))
const { data, error, isPending, hasNextPage, fetchNextPage, isFetchingNextPage } = useInfiniteQuery({
  queryKey: ['/api/logbook', filter],
  queryFn: ({ pageParam }) =>
    ask('/api/logbook', { ...filter.value, ...(pageParam ? { before: pageParam } : {}) }),
  initialPageParam: null as string | null,
  getNextPageParam: (page) => page.before,
  placeholderData: keepPreviousData,
})
const days = computed(() => {
  const found: { day: string; entries: Schemas['EntryOut'][] }[] = []
  for (const entry of data.value?.pages.flatMap((page) => page.entries) ?? []) {
    const day = asDay(entry.at)
    if (found.at(-1)?.day !== day) found.push({ day, entries: [] })
    found.at(-1)!.entries.push(entry)
  }
  return found
})
const exportLink = computed(
  () =>
    `/api/logbook.csv?${new URLSearchParams(Object.entries(filter.value).map(([k, v]) => [k, String(v)]))}`,
)

const field = ref<HTMLInputElement | null>(null)
onMounted(() => route.query.focus && field.value?.focus())
</script>

<template>
  <div class="stack">
    <div class="row spread">
      <h1>Logbook</h1>
      <a :href="exportLink" class="el-button plain" download>Save as CSV</a>
    </div>
    <div class="columns">
      <div class="stack">
        <div role="search" class="row tools">
          <label class="visually-hidden" for="search">Search the logbook</label>
          <el-input
            id="search"
            ref="field"
            v-model="search"
            class="wide"
            type="search"
            placeholder="Search: words, printer, verdict"
          />
          <ChoiceField id="of-printer" v-model="printer" label="Printer" unnamed>
            <el-option value="" label="All printers" />
            <el-option
              v-for="card in workshop?.cards"
              :key="card.printer.id"
              :value="card.printer.id"
              :label="card.printer.name"
            />
          </ChoiceField>
          <ChoiceField id="of-kind" v-model="kind" label="Kind" unnamed>
            <el-option value="" label="All kinds" />
            <el-option v-for="(word, key) in KINDS" :key="key" :value="key" :label="word" />
          </ChoiceField>
          <!-- its room is kept while the calendar is fetched -->
          <div class="day-wanted"><DayField v-model="day" /></div>
        </div>
        <WaitBox v-if="isPending" says="Opening the book …" kind="page" />
        <div v-else-if="error" class="trouble" role="alert">{{ sentence(error) }}</div>
        <p v-else-if="days.length === 0" class="sheet">
          {{
            Object.keys(filter).length
              ? 'Nothing in the book fits.'
              : 'The book is empty. Surveys, turns and verdicts write themselves in here; notes are yours.'
          }}
        </p>
        <section v-for="one in days" :key="one.day" class="day">
          <h2>{{ one.day }}</h2>
          <EntryList :entries="one.entries" />
        </section>
        <p v-if="hasNextPage">
          <el-button :loading="isFetchingNextPage" @click="fetchNextPage()">Earlier entries</el-button>
        </p>
      </div>
      <NoteForm class="note-form" :printer="printer" />
    </div>
  </div>
</template>

<style scoped>
.columns {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 290px;
  gap: 24px;
  align-items: start;
}
.tools {
  flex-wrap: nowrap;
}
.tools .el-form-item {
  flex: none;
  width: 11em;
}
.wide {
  flex: 1;
}
.day-wanted {
  flex: none;
  width: 10.5em;
  height: 40px;
  --el-date-editor-width: 100%;
}
.day-wanted :deep(.el-date-editor.el-input) {
  width: 100%;
}
.note-form {
  position: sticky;
  top: 12px;
}
.day h2 {
  font-size: 1rem;
  border-bottom: 2px solid var(--line-2);
  padding: 6px 0 3px;
}
.plain {
  text-decoration: none;
}
@media (max-width: 800px) {
  .columns {
    grid-template-columns: 1fr;
  }
  .note-form {
    position: static;
    order: -1;
  }
  .tools {
    flex-wrap: wrap;
  }
  .wide {
    flex-basis: 100%;
  }
  .tools .el-form-item {
    flex: 1 1 8em;
    width: auto;
  }
}
</style>
