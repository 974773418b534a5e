<script setup lang="ts">
// The visits at a machine, newest first.
import { computed, ref } from 'vue'
import { takeAway } from '@/api/change'
import type { Schemas } from '@/api/client'
import VerdictBadge from '@/charts/VerdictBadge.vue'
import { asDay, asTime, count, mm } from '@/shell/format'

const props = defineProps<{ all: Schemas['VisitLine'][] }>()
const search = ref('')
const visits = computed(() => {
  const words = search.value.toLowerCase().split(/\s+/).filter(Boolean)
  return props.all.filter((v) => {
    const text = `${asDay(v.started_at)} ${v.word ?? ''} ${v.ended_at ? 'closed' : 'open'}`.toLowerCase()
    return words.every((word) => text.includes(word))
  })
})
function tellVisit(visit: Schemas['VisitLine']): string {
  const parts = [
    count(visit.surveys, 'survey'),
    visit.turnings
      ? `turned ${visit.turnings === 1 ? 'once' : visit.turnings === 2 ? 'twice' : `${visit.turnings} times`}`
      : 'not turned',
  ]
  if (!visit.ended_at) parts.unshift('open')
  if (visit.first_spread !== null) {
    const same = visit.first_spread === visit.last_spread
    parts.push(same ? mm(visit.last_spread!) : `${mm(visit.first_spread)} → ${mm(visit.last_spread!)}`)
  }
  return parts.join(', ')
}
const deleteVisit = (visit: number): Promise<void> =>
  takeAway('/api/visits/{visit_id}', { visit_id: visit }, 'The visit was deleted.')
</script>

<template>
  <section class="sheet stack">
    <div class="row spread">
      <h2>Visits</h2>
      <div v-if="all.length > 4">
        <label class="visually-hidden" for="find-visit">Find a visit</label>
        <el-input id="find-visit" v-model="search" type="search" placeholder="Find: date or verdict" />
      </div>
    </div>
    <p v-if="all.length === 0" class="quiet">
      No visit yet. A visit is one time at this printer: measure, level, judge, close.
    </p>
    <p v-else-if="visits.length === 0" class="quiet">No visit fits.</p>
    <ul class="visits">
      <li v-for="visit in visits" :key="visit.id">
        <div class="row spread">
          <RouterLink :to="`/visits/${visit.id}`" class="when"
            >{{ asDay(visit.started_at) }}, {{ asTime(visit.started_at) }}</RouterLink
          >
          <VerdictBadge v-if="visit.verdict" :level="visit.verdict" :word="visit.word!" />
        </div>
        <div class="row spread small">
          <span class="quiet">{{ tellVisit(visit) }}</span>
          <el-button
            text
            size="small"
            :aria-label="`Delete the visit of ${asDay(visit.started_at)}`"
            @click="deleteVisit(visit.id)"
            >Delete</el-button
          >
        </div>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.visits {
  list-style: none;
  margin: 0;
  padding: 0;
}
.visits li {
  padding: 8px 0;
  border-top: 1px solid var(--line);
}
.when {
  font-weight: 600;
}
</style>
