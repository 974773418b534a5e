<script setup lang="ts">
import { computed } from 'vue'
import { later } from '@/components/later'
import { useRouter } from 'vue-router'
import { send, takeAway, useSubmit } from '@/api/change'
import type { Schemas } from '@/api/client'
import { attempt } from '@/shell/undo'
import WeakenedBy from '@/probing/WeakenedBy.vue'
import { asTime, count } from '@/shell/format'
import { emptyDraft, useDraft } from './draft'

const PastedReadings = later(() => import('./PastedReadings.vue'))
const TypedReadings = later(() => import('./TypedReadings.vue'))
const HandReadings = later(() => import('./HandReadings.vue'))
const ProbeSurvey = later(() => import('./ProbeSurvey.vue'))
const props = defineProps<{ visit: Schemas['VisitOut'] }>()
const router = useRouter()
// without a probe paper comes first
const draft = useDraft(props.visit.id, props.visit.printer.probe_kind === 'none' ? 'hand' : 'typed')
const key = computed({ get: () => draft.value.key, set: (value) => (draft.value.key = value) })
const last = computed(() => props.visit.rounds.at(-1) ?? null)
const add = useSubmit('post', '/api/visits/{visit_id}/surveys', () => ({ visit_id: props.visit.id }), {
  key,
  said: (made) => `${count(made.count, 'reading')} stored.`,
  undo: (made) => takeAway('/api/surveys/{survey_id}', { survey_id: made.id }, 'The survey was deleted.'),
})
const again = () =>
  attempt(
    () => send('post', '/api/visits/{visit_id}/reopen', { visit_id: props.visit.id }),
    'The visit is open again.',
  )

/** Take planned places over to be typed. */
function typeThese(points: Schemas['XY'][]): void {
  draft.value.points = points.map(({ x, y }) => ({ x, y, text: '' }))
  draft.value.pattern = 'own'
  draft.value.at = 0
  draft.value.mode = 'typed'
}
async function store(body: Omit<Schemas['SurveyIn'], 'client_key'>): Promise<void> {
  if (!(await add.submit(body))) return
  const { mode, pattern, hand } = draft.value
  draft.value = { ...emptyDraft(), mode, pattern, hand: { ...hand, points: [], at: 0 } }
  await router.push(`/visits/${props.visit.id}/judge`)
}
</script>

<template>
  <section v-if="visit.ended_at" class="sheet stack">
    <h2>This visit is closed</h2>
    <p>Open it again to add readings, or begin a new visit at the printer.</p>
    <div class="row">
      <el-button @click="again">Open it again</el-button>
      <RouterLink :to="`/printers/${visit.printer.id}`">To {{ visit.printer.name }}</RouterLink>
    </div>
  </section>
  <div v-else class="stack">
    <div class="row spread">
      <h2>{{ last ? `Measure again: round ${visit.rounds.length + 1}` : 'Put in your readings' }}</h2>
      <el-radio-group v-model="draft.mode" aria-label="How the readings come">
        <el-radio-button v-if="visit.printer.probe_kind === 'none'" value="hand"
          >Paper or gauge</el-radio-button
        >
        <el-radio-button value="typed">Type them on the bed</el-radio-button>
        <el-radio-button v-if="visit.printer.probe_kind !== 'none'" value="hand"
          >Paper or gauge</el-radio-button
        >
        <el-radio-button value="pasted">Paste or drop text</el-radio-button>
        <el-radio-button value="probe">{{
          visit.printer.probe_kind === 'none' ? 'Plan a survey' : 'By its probe'
        }}</el-radio-button>
      </el-radio-group>
    </div>
    <WeakenedBy :said="visit.weaknesses.trust" />
    <p v-if="last && !last.moved && visit.bed?.state === 'holds'" class="quiet">
      The newest readings are from {{ asTime(last.survey.taken_at) }}, and nothing was turned since. Another
      survey of the same bed shows how far your readings repeat.
    </p>
    <CautionNote>
      Bed and nozzle are hot at printing temperature: keep hands and sleeves off them. The head moves by
      itself; keep fingers out from under it.
    </CautionNote>
    <div v-if="add.trouble" class="trouble stack" role="alert">
      <p>{{ add.trouble }} Nothing you typed is lost.</p>
      <ul v-if="add.lines.length">
        <li v-for="line in add.lines.slice(0, 20)" :key="line.line">
          Line {{ line.line }}: {{ line.reason }} <code>{{ line.text }}</code>
        </li>
      </ul>
    </div>
    <TypedReadings
      v-if="draft.mode === 'typed'"
      v-model="draft"
      :visit="visit"
      :busy="add.busy"
      @store="store"
    />
    <HandReadings
      v-else-if="draft.mode === 'hand'"
      v-model="draft"
      :visit="visit"
      :busy="add.busy"
      @store="store"
    />
    <ProbeSurvey v-else-if="draft.mode === 'probe'" :visit="visit" @type="typeThese" />
    <PastedReadings v-else v-model="draft" :visit="visit" :busy="add.busy" @store="store" />
  </div>
</template>
