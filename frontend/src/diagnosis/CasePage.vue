<script setup lang="ts">
// A case: what it may be, what to look at next, one change at a time.
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { call, useApiQuery } from '@/api/ask'
import { send, takeAway, useSending } from '@/api/change'
import { sentence, type Schemas } from '@/api/client'
import { asDay, asTime } from '@/shell/format'
import CausesPanel from './CausesPanel.vue'
import ScrapeAlarm from './ScrapeAlarm.vue'
import SignList from './SignList.vue'
import { useTrail } from '@/shell/trail'

const route = useRoute()
const router = useRouter()
const id = computed(() => Number(route.params.id))
const { data, error } = useApiQuery('/api/cases/{case_id}', () => ({ case_id: id.value }))
const { data: causes } = useApiQuery('/api/causes', {}, { fixed: true })
const note = ref('')
const closing = ref(false)
const cause = ref('')
const other = ref<string | null>(null)
const offer = computed(
  () => data.value?.proposals.find((p) => p.key === other.value) ?? data.value?.proposals[0] ?? null,
)
const looking = ref(false)
const remedy = computed(() =>
  data.value?.next === 'remedy' && !looking.value ? data.value.ranked[0]! : null,
)
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
async function came(outcome: string): Promise<void> {
  const body = { check: offer.value!.key, outcome, note: '' }
  const made = await sending.run(
    (client_key) => call('post', '/api/cases/{case_id}/checks', at(), { client_key, ...body }),
    'Noted.',
    takeBack,
  )
  if (!made) return
  other.value = null
  looking.value = false
}
const begin = (which: string, others: string[]) =>
  sending.run(
    (client_key) => call('post', '/api/cases/{case_id}/remedies', at(), { client_key, cause: which, others }),
    'Begun. Change only this, and tell what came of it.',
    takeBack,
  )
async function ended(better: boolean): Promise<void> {
  const under = data.value!.under_way!
  const made = await sending.run((client_key) =>
    call(
      'post',
      '/api/cases/{case_id}/remedies/{event_id}',
      { case_id: id.value, event_id: under.id },
      { client_key, better, note: '' },
    ),
  )
  if (made && better && !under.others.length) askClose(under.key)
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
const drop = (event: number) => takeAway('/api/case-events/{event_id}', { event_id: event }, 'Taken back.')
async function removeCase(): Promise<void> {
  const one = id.value
  await router.push('/cases')
  await takeAway('/api/cases/{case_id}', { case_id: one }, 'The case was deleted.')
}
const percent = (p: number): string => `${Math.round(100 * p)} %`
// a page of its own, or a step of the visit the case belongs to
const ALONE = ['table', 'part', 'extrusion']
const NAMES: Record<string, string> = {
  table: 'Surfaces and materials',
  part: 'Check the part',
  extrusion: 'Extrusion sums',
  offset: 'Z offset',
  measure: 'Measure',
  trust: 'Trust',
  warm: 'Warm up',
  sound: 'Sound',
  level: 'Level',
  looks: 'Corner by corner',
  compensate: 'Mesh',
}
const link = (page: string): string =>
  !page
    ? ''
    : ALONE.includes(page)
      ? `/${page}`
      : data.value?.visit_id
        ? `/visits/${data.value.visit_id}/${page}`
        : ''
const RISK = { 1: 'only looks', 2: 'tries something', 3: 'takes apart' } as Record<number, string>
const strip = computed(() => {
  const s = data.value?.strip ?? {}
  return [
    s.surface,
    s.material,
    s.bed_temperature == null ? '' : `bed ${s.bed_temperature} °C`,
    s.nozzle_temperature == null ? '' : `nozzle ${s.nozzle_temperature} °C`,
  ]
    .filter(Boolean)
    .join(', ')
})
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
        >{{ asDay(data.opened_at) }}{{ strip ? ` · ${strip}` : ''
        }}{{ data.circumstances.length ? ` · ${data.circumstances.join(', ').toLowerCase()}` : '' }}</span
      >
    </div>
    <ScrapeAlarm
      v-if="answers.scraping === 'yes' && !data.closed"
      :printer="data.printer_id"
      :visit="data.visit_id"
    />
    <p class="verdict" role="status">{{ data.sentence }}</p>
    <p v-if="data.concluded && !data.closed" class="say">{{ data.concluded }}</p>
    <TroubleNote v-if="sending.trouble">{{ sending.trouble }}</TroubleNote>
    <section v-if="data.closed" class="sheet stack" aria-label="Closed">
      <h2>It was: {{ data.closed.toLowerCase() }}</h2>
      <p v-if="data.closed_note">{{ data.closed_note }}</p>
      <p><el-button @click="reopen">Open it again</el-button></p>
    </section>
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
        <section v-if="data.under_way" class="sheet stack now" aria-label="Under way">
          <h2>
            You are trying:
            {{
              data.under_way.wanted.what
                ? `${data.under_way.wanted.what.toLowerCase()} ${data.under_way.wanted.after}`
                : data.under_way.name.toLowerCase()
            }}
          </h2>
          <p><b>Leave as it is:</b> {{ data.under_way.keep || 'everything else.' }}</p>
          <p><b>If this is it:</b> {{ data.under_way.wanted.prediction }}</p>
          <CautionNote v-if="data.under_way.others.length">
            Changed with it: {{ data.under_way.others.join(', ') }}. If it gets better, nobody can say which
            one did it.
          </CautionNote>
          <CautionNote v-if="data.under_way.caution">{{ data.under_way.caution }}</CautionNote>
          <div class="row">
            <el-button type="primary" size="large" @click="ended(true)">It is better</el-button
            ><el-button size="large" @click="ended(false)">No better</el-button>
          </div>
        </section>
        <section v-else-if="remedy && !data.closed" class="sheet stack now" aria-label="Next step">
          <div class="row spread">
            <h2>Next: try the remedy</h2>
            <span class="quiet small">{{ remedy.minutes }} min</span>
          </div>
          <p class="say">{{ remedy.remedy }}</p>
          <p v-if="remedy.wanted.what">
            <b>{{ remedy.wanted.what }}:</b> {{ remedy.wanted.before ? `${remedy.wanted.before} → ` : ''
            }}{{ remedy.wanted.after }}
          </p>
          <p><b>Leave as it is:</b> {{ remedy.keep || 'everything else.' }}</p>
          <p v-if="link(remedy.page)">
            <RouterLink :to="link(remedy.page)">{{ NAMES[remedy.page] }}</RouterLink>
          </p>
          <CautionNote v-if="remedy.caution">{{ remedy.caution }}</CautionNote>
          <div class="row">
            <el-button type="primary" size="large" :loading="sending.busy" @click="begin(remedy.key, [])"
              >I try this</el-button
            ><el-button v-if="data.proposals.length" size="large" @click="looking = true"
              >Look further first</el-button
            >
          </div>
        </section>
        <section v-else-if="offer && !data.closed" class="sheet stack now" aria-label="Next check">
          <div class="row spread">
            <h2>Next: {{ offer.title.charAt(0).toLowerCase() + offer.title.slice(1) }}</h2>
            <span class="quiet small">{{ offer.minutes }} min · {{ RISK[offer.risk] }}</span>
          </div>
          <p class="say">{{ offer.how }}</p>
          <p v-if="link(offer.page)">
            <RouterLink :to="link(offer.page)">{{ NAMES[offer.page] }}</RouterLink>
          </p>
          <CautionNote v-if="offer.caution">{{ offer.caution }}</CautionNote>
          <div class="outcomes">
            <button
              v-for="m in offer.meanings"
              :key="m.key"
              type="button"
              class="outcome"
              @click="came(m.key)"
            >
              <b>{{ m.words.charAt(0).toUpperCase() + m.words.slice(1) }}</b><span class="quiet small"
                >then {{ m.cause.toLowerCase() }}: {{ percent(m.then) }}</span
              >
            </button>
          </div>
          <p class="quiet small">{{ offer.why }}</p>
          <FoldPart v-if="data.proposals.length > 1" title="Do another one" class="small">
            <div class="row">
              <el-button
                v-for="p in data.proposals"
                :key="p.key"
                size="small"
                :disabled="p.key === offer.key"
                @click="other = p.key"
                >{{ p.title }} ({{ p.minutes }} min)</el-button
              >
            </div>
          </FoldPart>
        </section>
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
          <el-button @click="askClose(data.ranked[0]!.key)">Close the case</el-button>
        </p>
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
      <SignList :groups="data.groups" :answers="answers" :locked="data.closed !== null" @answer="answer" />
    </section>
    <section class="sheet stack" aria-label="What happened">
      <h2>What happened</h2>
      <p v-if="!data.events.length" class="quiet">Nothing yet.</p>
      <ol class="plain-list">
        <li v-for="e in data.events" :key="e.id" class="row spread">
          <span
            ><span class="quiet small">{{ asDay(e.at) }}, {{ asTime(e.at) }}</span> {{ e.words
            }}<span v-if="e.note" class="quiet">: {{ e.note }}</span></span
          ><el-button
            v-if="!data.closed"
            text
            size="small"
            :aria-label="`Take back: ${e.words}`"
            @click="drop(e.id)"
            >Take back</el-button
          >
        </li>
      </ol>
      <p><el-button text size="small" @click="removeCase">Delete this case</el-button></p>
    </section>
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
.now {
  border-left: 4px solid var(--accent);
}
.say {
  font-size: 1.12rem;
}
.outcomes {
  display: grid;
  gap: 8px;
}
.outcome {
  font: inherit;
  text-align: left;
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  justify-content: space-between;
  align-items: center;
  min-height: 50px;
  padding: 8px 14px;
  color: var(--ink);
  background: var(--sheet-2);
  border: 1px solid var(--line-2);
  border-radius: var(--round);
  cursor: pointer;
}
.outcome:hover {
  border-color: var(--accent);
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
