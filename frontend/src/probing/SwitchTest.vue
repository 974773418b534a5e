<script setup lang="ts">
// A table of switch states: free, and while each is pressed; typed, or read by the printer.
import { computed, ref, watch } from 'vue'
import { send } from '@/api/change'
import { sentence, type Schemas } from '@/api/client'
import { attempt } from '@/shell/undo'
import AskDialog from '@/machine/AskDialog.vue'
import { OVER, type JobWish } from '@/machine/jobs'
import { freshSwitches, useSwitchDraft, type States } from './switchDraft'
import SwitchTable from './SwitchTable.vue'
import { newest, useStoreTest, useTestPreview, type TestData } from './tests'
import { useVisitJob } from './visitJob'

const props = defineProps<{ visit: Schemas['VisitOut'] }>()
const draft = useSwitchDraft(props.visit.id)
const key = computed({ get: () => draft.value.key, set: (value) => (draft.value.key = value) })
const open = ref(Object.keys(draft.value.untouched).length > 0)
const wanted = ref<JobWish | null>(null)
const target = ref<string | null>(null)
const { job, follow } = useVisitJob(props.visit, 'switches')
const { sending } = useStoreTest(() => props.visit.id, key)
const last = computed(() => newest(props.visit, 'switches'))

const retracting = computed(() => props.visit.printer.probe_kind === 'retracting')
const probe = computed(() => {
  const { stowed, deployed, touched } = draft.value.probe
  return retracting.value && stowed && deployed ? { stowed, deployed, touched: touched || null } : null
})
const named = computed(() => draft.value.names.filter((name) => draft.value.untouched[name]))
const clean = (states: States): States =>
  Object.fromEntries(named.value.map((name) => [name, states[name] ?? draft.value.untouched[name]!]))
const body = computed<TestData | null>(() => {
  const untouched = Object.fromEntries(named.value.map((name) => [name, draft.value.untouched[name]!]))
  if (!named.value.length && !probe.value) return null
  const pressed = Object.fromEntries(
    Object.entries(draft.value.pressed)
      .filter(([name]) => named.value.includes(name))
      .map(([name, states]) => [name, clean(states)]),
  )
  const wiring = Object.fromEntries(
    Object.entries(draft.value.wiring).filter(([name]) => named.value.includes(name)),
  )
  return {
    kind: 'switches',
    untouched: named.value.length ? untouched : null,
    pressed,
    wiring,
    probe: probe.value,
  }
})
const { data: preview, error } = useTestPreview(() => props.visit.printer.id, body)
const result = computed(() => (body.value ? (preview.value?.result ?? null) : null))
const said = computed(() => result.value?.switches ?? (body.value ? null : last.value?.switches) ?? [])

function read(row: string | null): void {
  target.value = row
  wanted.value = { kind: 'switches', visit: props.visit.id }
}
// watched while they are pressed in any order: the row of what answered fills itself
function watchThem(): void {
  target.value = null
  wanted.value = { kind: 'watch', visit: props.visit.id }
}
const watching = computed(() => job.value?.kind === 'watch' && !OVER.includes(job.value.state))
const stopWatching = () =>
  attempt(() => send('post', '/api/jobs/{job_id}/stop', { job_id: job.value!.id }, { how: 'soft' }), '')
watch(
  () => job.value?.kind === 'watch' && job.value.live,
  (live) => {
    if (!live || !live.untouched) return
    const names = Object.keys(live.untouched)
    const pressed: Record<string, States> = {}
    for (const states of live.watched ?? []) {
      // what was said to be pressed stays said
      const answered = names.filter((name) => states[name] !== live.untouched![name])
      const row = was.value[answered.join()] ?? answered[0]
      if (row) pressed[row] = { ...states }
    }
    Object.assign(draft.value, { names, untouched: { ...live.untouched }, pressed })
  },
)
const was = ref<Record<string, string>>({})
const PIN = { probe_in: 'stowed', probe_out: 'deployed' } as const
function pin(kind: 'probe_in' | 'probe_out' | 'probe_test'): void {
  wanted.value = { kind, visit: props.visit.id }
}
watch(
  () => job.value?.state === 'done' && job.value,
  (now) => {
    if (!now || !(now.kind in PIN) || !now.live.switches) return
    const probe = Object.keys(now.live.switches).find((name) => name.includes('probe'))
    if (probe) draft.value.probe[PIN[now.kind as keyof typeof PIN]] = now.live.switches[probe]!
  },
)
/** It was another one that was pressed: the row goes to it. */
function wasPressed(row: string, name: string): void {
  const states = draft.value.pressed[row]
  if (!states || row === name) return
  const answered = draft.value.names.filter((one) => states[one] !== draft.value.untouched[one]).join()
  was.value = { ...was.value, [answered]: name }
  const others = Object.entries(draft.value.pressed).filter(([one]) => one !== row)
  draft.value.pressed = Object.fromEntries([...others, [name, states]])
}
// what the printer answers goes into the row that asked
const awaited = ref<number | null>(null)
watch([job, awaited], ([now]) => {
  if (
    !now ||
    now.kind !== 'switches' ||
    now.state !== 'done' ||
    !now.live.switches ||
    awaited.value !== now.id
  )
    return
  awaited.value = null
  const states = now.live.switches
  if (target.value === null) {
    draft.value.names = Object.keys(states)
    draft.value.untouched = { ...states }
    draft.value.pressed = {}
  } else draft.value.pressed[target.value] = { ...states }
})
function begun(job: Schemas['JobLineOut']): void {
  awaited.value = job.id
  follow(job.id)
}
async function save(): Promise<void> {
  if (await sending.submit({ test: body.value! })) draft.value = freshSwitches()
}
const hasLine = computed(() => props.visit.printer.port !== '')
</script>

<template>
  <section class="sheet stack" aria-label="Switch test">
    <div class="row spread">
      <h2>Switches</h2>
      <el-button v-if="!visit.ended_at" text @click="open = !open">{{
        open ? 'Fold' : 'Test them'
      }}</el-button>
    </div>
    <p v-if="!open && last" :class="last.level === 'bad' ? 'trouble' : ''">
      {{ last.word }}: {{ last.figures }}
    </p>
    <p v-else-if="!open" class="quiet">
      Free all should be open; each pressed by hand should trigger, and only itself.
    </p>
    <template v-if="open">
      <div v-if="hasLine" class="row">
        <el-button v-if="watching" type="primary" @click="stopWatching">That is all of them</el-button>
        <el-button v-else type="primary" @click="watchThem">Watch while I press them</el-button>
        <p v-if="watching" class="seen" role="status">{{ job!.message }}</p>
      </div>
      <p class="small quiet">
        Tap a cell to change it. First the states while nothing is pressed, then press one switch by hand and
        put in what all of them say.
      </p>
      <SwitchTable v-model="draft" :named="named" :has-line="hasLine" @read="read" @was="wasPressed" />
      <FoldPart v-if="named.length" title="How they are wired, if you know">
        <div class="row">
          <ChoiceField
            v-for="name in named"
            :key="name"
            v-model="draft.wiring[name]"
            :label="`Wiring of ${name}`"
            class="narrow"
          >
            <el-option value="unknown" label="not known" />
            <el-option value="normally_open" label="normally open" />
            <el-option value="normally_closed" label="normally closed" />
          </ChoiceField>
        </div>
        <p class="small quiet">
          Normally closed, a broken wire shows as triggered and fails safe; normally open, it hides.
        </p>
      </FoldPart>
      <div v-if="retracting && hasLine" class="row">
        <el-button @click="pin('probe_in')">Take the pin in</el-button>
        <el-button @click="pin('probe_out')">Put it out</el-button>
        <el-button @click="pin('probe_test')">Its self-test</el-button>
        <p
          v-if="job && ['probe_in', 'probe_out', 'probe_test'].includes(job.kind)"
          class="small"
          role="status"
        >
          {{ job.message }}
        </p>
      </div>
      <div v-if="retracting" class="row">
        <span class="label">Probe</span>
        <ChoiceField
          v-for="which in ['stowed', 'deployed', 'touched'] as const"
          :key="which"
          v-model="draft.probe[which]"
          :label="which === 'touched' ? 'pin pushed up' : which"
          class="narrow"
        >
          <el-option value="" label="–" />
          <el-option value="open" label="open" />
          <el-option value="triggered" label="triggered" />
        </ChoiceField>
      </div>
      <TroubleNote v-if="error && body">{{ sentence(error) }}</TroubleNote>
      <ul v-if="said.length" aria-live="polite">
        <li v-for="one in said" :key="one.switch + one.kind" :class="one.kind">
          {{ one.sentence }}
          <FoldPart v-if="one.walk.length" title="Find the break with a meter">
            <ol>
              <li v-for="step in one.walk" :key="step">{{ step }}</li>
            </ol>
          </FoldPart>
        </li>
      </ul>
      <TroubleNote v-if="sending.trouble">{{ sending.trouble }}</TroubleNote>
      <div class="row">
        <el-button type="primary" :disabled="!result" :loading="sending.busy" @click="save"
          >Store this test</el-button
        >
        <el-button @click="draft = freshSwitches()">Begin again</el-button>
      </div>
      <CautionNote>
        Press with something that is not your finger where an axis could move, and keep the motors off.
      </CautionNote>
    </template>
    <AskDialog :printer="visit.printer.id" :wanted="wanted" @close="wanted = null" @begun="begun" />
  </section>
</template>

<style scoped>
.narrow {
  width: 9.5em;
  display: inline-block;
}
ul {
  margin: 0;
  padding-left: 18px;
}
li.dead,
li.swapped,
li.inverted,
li.crossed {
  color: var(--bad);
  font-weight: 600;
}
</style>
