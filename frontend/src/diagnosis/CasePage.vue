<script setup lang="ts">
// A case: what it may be, what to look at next, one change at a time.
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { call, useApiQuery } from '@/api/ask'
import { send, takeAway, useSending } from '@/api/change'
import { sentence, type Schemas } from '@/api/client'
import { asDay } from '@/shell/format'
import CaseEvents from './CaseEvents.vue'
import CaseStep from './CaseStep.vue'
import CausesPanel from './CausesPanel.vue'
import AlarmNote from './AlarmNote.vue'
import HeardSigns from './HeardSigns.vue'
import SetupLine from './SetupLine.vue'
import SignList from './SignList.vue'
import TriedBefore from './TriedBefore.vue'
import { useTrail } from '@/shell/trail'

const route = useRoute()
const router = useRouter()
const id = computed(() => Number(route.params.id))
const { data, error } = useApiQuery('/api/cases/{case_id}', () => ({ case_id: id.value }))
const { data: causes } = useApiQuery('/api/causes', {}, { fixed: true })
const note = ref('')
const closing = ref(false)
const cause = ref('')
const step = ref<InstanceType<typeof CaseStep> | null>(null)
const answers = computed(() =>
  Object.fromEntries(data.value?.groups.flatMap((g) => g.signs.map((s) => [s.key, s.answer] as const)) ?? []),
)
const sending = useSending()
const at = () => ({ case_id: id.value })
const takeBack = (made: { id: number }) =>
  send('delete', '/api/case-events/{event_id}', { event_id: made.id })
const answer = (sign: string, value: Schemas['SignOut']['answer']) =>
  sending.run((client_key) =>
    call('post', '/api/cases/{case_id}/signs', at(), { client_key, sign, answer: value }),
  )
async function came(check: string, outcome: string): Promise<void> {
  const body = { check, outcome, note: '' }
  const made = await sending.run(
    (client_key) => call('post', '/api/cases/{case_id}/checks', at(), { client_key, ...body }),
    'Noted.',
    takeBack,
  )
  if (made) step.value?.seen()
}
const begin = (which: string, others: string[]) =>
  sending.run(
    (client_key) => call('post', '/api/cases/{case_id}/remedies', at(), { client_key, cause: which, others }),
    'Begun. Change only this, and tell what came of it.',
    takeBack,
  )
const safe = () =>
  sending.run(
    (client_key) =>
      call('post', '/api/cases/{case_id}/safe', at(), { client_key, alarm: data.value!.alarm!.key }),
    'Noted. From here on causes are looked for.',
    takeBack,
  )
const tried = (what: string, came: string) =>
  sending.run((client_key) => call('post', '/api/cases/{case_id}/before', at(), { client_key, what, came }))
const correct = (setup: Record<string, number | string | null>) =>
  sending.run(
    (client_key) =>
      call('post', '/api/cases/{case_id}/setup', at(), { client_key, setup: setup as Schemas['SetupIn'] }),
    'Noted.',
    takeBack,
  )
async function ended(came: Schemas['OutcomeIn']['came']): Promise<void> {
  const under = data.value!.under_way!
  const made = await sending.run((client_key) =>
    call(
      'post',
      '/api/cases/{case_id}/remedies/{event_id}',
      { case_id: id.value, event_id: under.id },
      { client_key, came, note: '' },
    ),
  )
  if (made && came === 'better' && !under.others.length) askClose(under.key)
}
function askClose(which: string): void {
  cause.value = which
  closing.value = true
}
async function close(): Promise<void> {
  const body = { cause: cause.value, note: note.value }
  const made = await sending.run(
    (client_key) => call('post', '/api/cases/{case_id}/close', at(), { client_key, ...body }),
    'Closed. The next case is judged a little better for it.',
    takeBack,
  )
  if (made) closing.value = false
}
const reopen = () =>
  sending.run((client_key) => call('post', '/api/cases/{case_id}/reopen', at(), { client_key }))
async function removeCase(): Promise<void> {
  const one = id.value
  await router.push('/cases')
  await takeAway('/api/cases/{case_id}', { case_id: one }, 'The case was deleted.')
}
useTrail(() => [
  { name: 'Cases', to: '/cases' },
  ...(data.value ? [{ name: data.value.printer, to: `/printers/${data.value.printer_id}` }] : []),
  { name: 'Case' },
])
</script>

<template>
  <TroubleNote v-if="error">
    {{ sentence(error) }} <RouterLink to="/cases">To the cases</RouterLink>
  </TroubleNote>
  <div v-else-if="data" class="stack">
    <div class="row spread">
      <h1>{{ data.words || 'A first layer that does not stick' }}</h1>
      <span class="quiet small"
        >{{ asDay(data.opened_at)
        }}{{ data.circumstances.length ? ` · ${data.circumstances.join(', ').toLowerCase()}` : '' }}</span
      >
    </div>
    <section v-if="data.closed" class="sheet stack" aria-label="Closed">
      <h2>It was: {{ data.closed.toLowerCase() }}</h2>
      <p v-if="data.ended_with">{{ data.ended_with }}</p>
      <p v-if="data.closed_note">{{ data.closed_note }}</p>
      <p><el-button @click="reopen">Open it again</el-button></p>
    </section>
    <AlarmNote
      v-else-if="data.alarm"
      :key="data.alarm.key"
      :alarm="data.alarm"
      :printer="data.printer_id"
      :visit="data.visit_id"
      :busy="sending.busy"
      open
      @safe="safe"
    />
    <p v-if="!data.closed && data.next !== 'alarm'" class="verdict" role="status">{{ data.sentence }}</p>
    <p v-if="data.concluded && !data.closed" class="say">{{ data.concluded }}</p>
    <TroubleNote v-if="sending.trouble">{{ sending.trouble }}</TroubleNote>
    <div class="worktable even turned">
      <div class="stack">
        <section class="sheet stack" aria-label="Causes">
          <h2>What it may be</h2>
          <p v-if="data.visit_id && !data.closed" class="small">
            <RouterLink :to="`/visits/${data.visit_id}/looks`"
              >One corner looks otherwise? Tap how each looks, and hear which knob</RouterLink
            >
          </p>
          <CausesPanel :found="data" :busy="sending.busy" @remedy="begin" @close="askClose" />
        </section>
      </div>
      <div class="stack">
        <HeardSigns
          v-if="!data.closed && data.next !== 'alarm'"
          :words="data.words"
          :answers="answers"
          @answer="answer"
        />
        <CaseStep
          ref="step"
          :found="data"
          :busy="sending.busy"
          @ended="ended"
          @begin="begin($event, [])"
          @came="came"
        />
        <section v-if="closing && !data.closed" class="sheet stack" aria-label="Close the case">
          <h2>What was it?</h2>
          <ChoiceField v-model="cause" label="Cause" unnamed>
            <el-option v-for="(name, k) in causes?.causes" :key="k" :value="k" :label="name" />
            <el-option value="unknown" label="Cause not found" />
          </ChoiceField>
          <el-input v-model="note" maxlength="500" placeholder="What mended it" aria-label="What mended it" />
          <div class="row">
            <el-button type="primary" :loading="sending.busy" @click="close">Close the case</el-button
            ><el-button @click="closing = false">Not yet</el-button>
          </div>
        </section>
        <p v-else-if="!data.closed">
          <el-button @click="askClose(data.ended_by || data.ranked[0]!.key)">Close the case</el-button>
        </p>
        <SetupLine
          :setup="data.setup"
          :locked="data.closed !== null"
          :busy="sending.busy"
          @correct="correct"
        />
        <section v-if="data.evidence.length" class="sheet stack" aria-label="Known already">
          <h3>Known without asking</h3>
          <ul class="small plain-list">
            <li v-for="e in data.evidence" :key="e.words">{{ e.words }}</li>
          </ul>
        </section>
      </div>
    </div>
    <section class="sheet stack" aria-label="Signs">
      <h2>What was seen</h2>
      <SignList
        :groups="data.groups"
        :answers="answers"
        :first="data.first"
        :locked="data.closed !== null"
        @answer="answer"
      />
      <TriedBefore :items="data.before" :locked="data.closed !== null" @tell="tried" />
    </section>
    <CaseEvents :found="data" @remove="removeCase" />
  </div>
  <WaitBox v-else says="Opening the case …" kind="page" />
</template>

<style scoped>
.verdict {
  font-family: var(--head);
  font-size: 1.5rem;
  font-weight: 700;
}
@media (max-width: 800px) {
  .turned > :last-child {
    order: -1;
  }
}
.say {
  font-size: 1.12rem;
}
.plain-list {
  list-style: none;
  margin: 0;
  padding: 0;
}
.plain-list li {
  padding: 5px 0;
  border-top: 1px solid var(--line);
}
</style>
