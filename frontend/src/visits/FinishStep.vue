<script setup lang="ts">
import { computed } from 'vue'
import { useRouter } from 'vue-router'
import { call } from '@/api/ask'
import { send, takeAway, useSending } from '@/api/change'
import type { Schemas } from '@/api/client'
import { attempt } from '@/shell/undo'
import VerdictBadge from '@/charts/VerdictBadge.vue'
import { useDraft } from '@/shell/draft'
import { spreadOf } from '@/shell/format'
import RoundsTable from './RoundsTable.vue'
import { goTo } from './steps'

const props = defineProps<{ visit: Schemas['VisitOut'] }>()
const router = useRouter()
const { kept: note, forget } = useDraft(`closing-${props.visit.id}`, props.visit.note)
const last = computed(() => props.visit.rounds.at(-1) ?? null)
// what the trade does first is offered first; the visit can be closed all the same
const first = computed(() =>
  props.visit.next && props.visit.next.name !== 'finish' ? props.visit.next : null,
)
const reopen = () => send('post', '/api/visits/{visit_id}/reopen', { visit_id: props.visit.id })
const finishing = useSending({ aloud: true })
async function close(): Promise<void> {
  const closed = await finishing.run(
    () => call('post', '/api/visits/{visit_id}/finish', { visit_id: props.visit.id }, { note: note.value }),
    'The visit is closed and in the logbook.',
    reopen,
  )
  if (closed) forget()
}
const again = (): Promise<void> => attempt(reopen, 'The visit is open again.')
async function erase(): Promise<void> {
  const id = props.visit.id
  await router.push(`/printers/${props.visit.printer.id}`)
  await takeAway('/api/visits/{visit_id}', { visit_id: id }, 'The visit was deleted.', [
    '/api/visits/',
    '/api/surveys/',
  ])
}
</script>

<template>
  <div class="stack">
    <section v-if="!last" class="sheet stack">
      <h2>Nothing to conclude yet</h2>
      <p>Take a survey first; then this page sums the visit up.</p>
      <p><RouterLink :to="`/visits/${visit.id}/measure`">To the readings</RouterLink></p>
    </section>
    <template v-else>
      <section class="sheet stack">
        <div class="row">
          <h2>{{ visit.ended_at ? 'How it ended' : 'Where it stands' }}</h2>
          <VerdictBadge :level="last.survey.verdict" :word="last.survey.word" />
        </div>
        <p v-if="visit.rounds.length > 1">
          From {{ spreadOf(visit.rounds[0]!.survey) }} to {{ spreadOf(last.survey) }} between highest and
          lowest reading.
        </p>
        <p v-else>{{ spreadOf(last.survey) }} between highest and lowest reading.</p>
        <p v-if="first" class="row">
          <RouterLink
            class="el-button el-button--primary el-button--large go"
            :to="`/visits/${visit.id}/${first.name}`"
            >{{ goTo(first.name, visit) }}</RouterLink
          >
          <span>{{ first.why }}</span>
        </p>
        <template v-if="!visit.ended_at">
          <TextField
            id="closing"
            v-model="note"
            label="Note for the logbook"
            type="textarea"
            rows="2"
            maxlength="2000"
            placeholder="What you noticed; what to look at next time"
          />
          <div class="row">
            <el-button
              :type="first ? undefined : 'primary'"
              size="large"
              :loading="finishing.busy"
              @click="close"
              >Close this visit</el-button
            >
            <el-button type="danger" plain @click="erase">Delete this visit</el-button>
          </div>
        </template>
        <template v-else>
          <p v-if="visit.note" class="note">{{ visit.note }}</p>
          <div class="row">
            <RouterLink class="el-button go" :to="`/printers/${visit.printer.id}/print?visit=${visit.id}`"
              >I print now</RouterLink
            >
            <el-button @click="again">Open it again</el-button>
            <el-button type="danger" plain @click="erase">Delete this visit</el-button>
          </div>
        </template>
      </section>
      <RoundsTable :visit="visit" />
    </template>
  </div>
</template>

<style scoped>
.go {
  text-decoration: none;
}
.note {
  white-space: pre-line;
  border-left: 4px solid var(--line-2);
  padding-left: 12px;
}
</style>
