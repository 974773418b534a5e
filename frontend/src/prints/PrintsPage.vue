<script setup lang="ts">
// All prints of the workshop: which run and what is due at each, and what came of the others.
import { keepPreviousData, useInfiniteQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref } from 'vue'
import { ask } from '@/api/ask'
import { sentence, type Schemas } from '@/api/client'
import { useWorkshop } from '@/api/shown'
import { asDay } from '@/shell/format'
import OutcomeBadge from './OutcomeBadge.vue'
import { dueAt, since, useClock, useRunning } from './running'
import TellMe from './TellMe.vue'

const now = useClock()
const { data: running, error } = useRunning()
const { data: workshop } = useWorkshop()
const search = ref('')
const text = refDebounced(search, 250)
const {
  data,
  error: wrong,
  hasNextPage,
  fetchNextPage,
  isFetchingNextPage,
} = useInfiniteQuery({
  queryKey: ['/api/prints', text],
  queryFn: ({ pageParam }) =>
    ask('/api/prints', { text: text.value, ...(pageParam ? { after: pageParam } : {}) }),
  initialPageParam: 0,
  getNextPageParam: (page) => page.after,
  placeholderData: keepPreviousData,
})
const ended = computed(() => data.value?.pages.flatMap((page) => page.prints) ?? [])
const free = computed(() => {
  const busy = (running.value?.prints ?? []).map((one) => one.printer_id)
  return (workshop.value?.cards ?? []).map((card) => card.printer).filter((one) => !busy.includes(one.id))
})
function said(one: Schemas['PrintBrief']): string {
  if (one.wanted) return `${one.wanted.title}: look now${one.wanted.late ? ', it is late' : ''}`
  if (one.due_sentence) return one.due_sentence
  if (one.coming) return `${one.coming.title}: ${dueAt(one.coming.due, now.value)}`
  return one.ends_at ? `Ends ${dueAt(one.ends_at, now.value)}` : 'Runs.'
}
</script>

<template>
  <div class="stack">
    <div class="row spread">
      <h1>Prints</h1>
      <RouterLink to="/prints/results">What came of them</RouterLink>
    </div>
    <TroubleNote v-if="error || wrong">{{ sentence((error ?? wrong)!) }}</TroubleNote>
    <section v-if="running?.prints.length" class="sheet stack" aria-labelledby="running">
      <h2 id="running">Running</h2>
      <ul>
        <li v-for="one in running.prints" :key="one.id" :class="{ due: one.due_sentence }">
          <div>
            <b>{{ one.printer }}: {{ one.name || 'a print' }}</b>
            <p>{{ said(one) }}</p>
            <p class="small quiet">
              {{ [one.material, one.surface].filter(Boolean).join(' on ') }} · since
              {{ since(one.started_at, now) }}
            </p>
          </div>
          <RouterLink
            class="el-button"
            :class="{ 'el-button--primary': one.due_sentence }"
            :to="`/prints/${one.id}`"
            :aria-label="`${one.over ? 'Tell what came of it' : 'Look'}: ${one.printer}`"
            >{{ one.over ? 'Tell what came of it' : 'Look' }}</RouterLink
          >
        </li>
      </ul>
    </section>
    <section v-if="free.length" class="sheet stack" aria-labelledby="begin">
      <h2 id="begin">I print now</h2>
      <p v-if="!running?.prints.length" class="quiet">
        Tell when a print starts: you are reminded to look while it can still be saved, it is counted on its
        surface, and what came of it is kept.
      </p>
      <div class="row">
        <RouterLink v-for="one in free" :key="one.id" class="el-button" :to="`/printers/${one.id}/print`"
          >On {{ one.name }}</RouterLink
        >
      </div>
    </section>
    <section v-if="data" class="sheet stack" aria-labelledby="ended">
      <div class="row spread">
        <h2 id="ended">Ended</h2>
        <span
          ><label class="visually-hidden" for="find-print">Find a print</label
          ><el-input id="find-print" v-model="search" type="search" placeholder="Find a print"
        /></span>
      </div>
      <p v-if="!ended.length" class="quiet">{{ search ? 'No print fits.' : 'No print has ended yet.' }}</p>
      <ul>
        <li v-for="one in ended" :key="one.id">
          <div>
            <RouterLink :to="`/prints/${one.id}`"
              ><b>{{ one.name || 'A print' }}</b></RouterLink
            >
            <p class="small quiet">
              {{ one.printer }}, {{ asDay(one.started_at) }} ·
              {{ [one.material, one.surface].filter(Boolean).join(' on ') }}
            </p>
          </div>
          <span class="came"
            ><OutcomeBadge :outcome="one.outcome" :word="one.outcome_words" /><span class="small quiet">{{
              one.lasted
            }}</span></span
          >
        </li>
      </ul>
      <p v-if="hasNextPage">
        <el-button :loading="isFetchingNextPage" @click="fetchNextPage()">Older prints</el-button>
      </p>
    </section>
    <WaitBox v-else says="Looking for the prints …" />
    <TellMe />
  </div>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 6px 18px;
  padding: 8px 0;
  border-top: 1px solid var(--line);
}
.el-button {
  text-decoration: none;
  flex: none;
}
.came {
  display: flex;
  flex-direction: column;
  align-items: flex-end;
  gap: 2px;
}
@media (max-width: 640px) {
  li:has(.el-button) {
    flex-direction: column;
    align-items: stretch;
  }
}
</style>
