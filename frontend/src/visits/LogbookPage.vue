<script setup lang="ts">
import { keepPreviousData, useInfiniteQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, onMounted, ref } from 'vue'
import { useRoute } from 'vue-router'
import { ask, call } from '@/api/ask'
import { takeAway, useSending } from '@/api/change'
import { sentence, type Schemas } from '@/api/client'
import { useWorkshop } from '@/api/shown'
import { useDraft } from '@/shell/draft'
import { asDay, asTime } from '@/shell/format'

type Kind = Schemas['EntryOut']['kind']
const KINDS: Record<Kind, string> = {
  survey: 'Survey',
  turning: 'Turned',
  verdict: 'Verdict',
  note: 'Note',
  printer: 'Set-up',
  finding: 'Found',
  test: 'Tested',
  job: 'At the line',
  adjustment: 'Adjustment',
  offset: 'Z offset',
  change: 'Changed',
  case: 'Case',
}
const route = useRoute()
const search = ref('')
const wanted = refDebounced(search, 250)
const kind = ref<Kind | ''>('')
const printer = ref<number | ''>(Number(route.query.printer) || '')
const { data: workshop } = useWorkshop()
const filter = computed(() => ({
  ...(wanted.value.trim() ? { q: wanted.value.trim() } : {}),
  ...(kind.value ? { kind: kind.value } : {}),
  ...(printer.value ? { printer: printer.value } : {}),
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

const { kept: note, clear } = useDraft('note-logbook', '')
const notePrinter = ref<number | ''>(printer.value)
const adding = useSending({ aloud: true, patient: false })
async function write(): Promise<void> {
  if (!note.value.trim()) return
  const body = { text: note.value, printer: notePrinter.value || null }
  if (await adding.run(() => call('post', '/api/logbook', {}, body), 'The note is in the book.')) clear()
}
const erase = (entry: Schemas['EntryOut']): Promise<void> =>
  takeAway('/api/logbook/{entry_id}', { entry_id: entry.id }, 'The note was deleted.')
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
          <el-timeline>
            <el-timeline-item
              v-for="entry in one.entries"
              :key="entry.id"
              :class="entry.kind"
              hide-timestamp
              :hollow="entry.kind !== 'verdict'"
            >
              <span class="time number quiet">{{ asTime(entry.at) }}</span>
              <span class="kind">{{ KINDS[entry.kind] }}</span>
              <div class="what">
                <p>
                  <RouterLink v-if="entry.visit_id" :to="`/visits/${entry.visit_id}`">{{
                    entry.title
                  }}</RouterLink>
                  <template v-else>{{ entry.title }}</template>
                  <span v-if="entry.printer" class="of quiet"> · {{ entry.printer }}</span>
                  <span v-if="entry.device" class="of quiet"> · from {{ entry.device }}</span>
                </p>
                <p v-if="entry.detail" class="detail">{{ entry.detail }}</p>
              </div>
              <el-button
                v-if="entry.kind === 'note'"
                text
                size="small"
                :aria-label="`Delete the note: ${entry.title}`"
                @click="erase(entry)"
                >Delete</el-button
              >
            </el-timeline-item>
          </el-timeline>
        </section>
        <p v-if="hasNextPage">
          <el-button :loading="isFetchingNextPage" @click="fetchNextPage()">Earlier entries</el-button>
        </p>
      </div>
      <el-form class="sheet stack note" @submit.prevent="write">
        <h2>Write a note</h2>
        <el-input
          id="note"
          v-model="note"
          type="textarea"
          aria-label="Note"
          :rows="4"
          maxlength="2000"
          placeholder="What you noticed, changed or ordered"
        />
        <ChoiceField id="note-printer" v-model="notePrinter" label="About" unnamed>
          <el-option value="" label="About the whole workshop" />
          <el-option
            v-for="card in workshop?.cards"
            :key="card.printer.id"
            :value="card.printer.id"
            :label="`About ${card.printer.name}`"
          />
        </ChoiceField>
        <el-button type="primary" native-type="submit" :loading="adding.busy">Put it in the book</el-button>
      </el-form>
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
.note {
  position: sticky;
  top: 12px;
}
.day h2 {
  font-size: 1rem;
  border-bottom: 2px solid var(--line-2);
  padding: 6px 0 3px;
}
.el-timeline {
  padding: 10px 0 0 2px;
}
.el-timeline-item {
  padding-bottom: 10px;
}
.el-timeline-item :deep(.el-timeline-item__content) {
  display: grid;
  grid-template-columns: 48px 78px minmax(0, 1fr) auto;
  gap: 4px 10px;
  align-items: baseline;
  font-size: 1rem;
  color: var(--ink);
}
.kind {
  font-weight: 650;
  font-size: 0.92rem;
}
.survey .kind {
  color: var(--accent);
}
.turning .kind {
  color: var(--act);
}
.verdict .kind {
  color: var(--good);
}
.note .kind {
  color: var(--mild);
}
.detail {
  color: var(--ink-2);
  font-size: 0.95rem;
  white-space: pre-line;
}
.el-timeline-item.note {
  position: relative;
  top: 0;
}
.plain {
  text-decoration: none;
}
@media (max-width: 800px) {
  .columns {
    grid-template-columns: 1fr;
  }
  .note:is(form) {
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
  .el-timeline-item :deep(.el-timeline-item__content) {
    grid-template-columns: 44px minmax(0, 1fr) auto;
  }
  .el-timeline-item .what {
    grid-column: 1 / -1;
    grid-row: 2;
  }
}
</style>
