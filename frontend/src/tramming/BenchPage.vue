<script setup lang="ts">
// Levelling by paper beside the machine: one corner at a time, the next one chosen by the server, in any order the
// person prefers.
import { useLocalStorage } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { call, useApiQuery } from '@/api/ask'
import { takeAway, useSending } from '@/api/change'
import { sentence, type Schemas } from '@/api/client'
import { useVisit } from '@/api/shown'
import KnobTurn from '@/charts/KnobTurn.vue'
import WhereScrew from '@/bed/WhereScrew.vue'
import { useAwake } from '@/shell/awake'
import { count, mm, parseNumber } from '@/shell/format'
import { onKey } from '@/shell/shortcuts'
import FeelButtons from '@/surveys/FeelButtons.vue'

const route = useRoute()
const router = useRouter()
const id = computed(() => Number(route.params.id))
const { data: visit } = useVisit(id)
const { data, error } = useApiQuery('/api/visits/{visit_id}/bench', () => ({ visit_id: id.value }), {
  once: true,
})
const counting = useLocalStorage('finchwort-bench-counts', false)
// another corner than the proposed one, where the person prefers it
const chosen = ref<number | null>(null)
watch(
  () => data.value?.steps.length,
  () => (chosen.value = null),
)
const place = computed(() =>
  data.value?.ask === 'turn' ? data.value.place : (chosen.value ?? data.value?.place ?? null),
)
const here = computed(() => (place.value === null ? null : (data.value?.places[place.value] ?? null)))
const proposed = computed(() => place.value === data.value?.place)
const ready = useLocalStorage(`finchwort-bench-ready-${id.value}`, false)
const begun = computed(() => ready.value || (data.value?.steps.length ?? 0) > 0)
const VERB = { tighten: 'Tighten', loosen: 'Loosen' } as const

const sending = useSending()
const at = () => ({ visit_id: id.value })
const step = async (body: Omit<Schemas['BenchStepIn'], 'client_key'>): Promise<void> => {
  if (sending.busy) return
  await sending.run((client_key) =>
    call('post', '/api/visits/{visit_id}/bench', at(), { ...body, client_key }),
  )
}
// sent twice it would take back two steps
const undoing = useSending({ patient: false })
const undo = async (): Promise<void> => {
  if (!undoing.busy) await undoing.run(() => call('post', '/api/visits/{visit_id}/bench/undo', at()))
}
const feel = (which: Schemas['FeelOut']['key']): void =>
  void (place.value !== null && step({ what: 'feel', place: place.value, feel: which }))
const drags = (): void => void step({ what: 'drag', place: data.value!.place! })
const turned = (): void =>
  void step({ what: 'turn', place: data.value!.place!, turns: data.value!.turn!.bold })
const lowered = ref('')
const way = ref<1 | -1>(-1)
function read(): void {
  const value = parseNumber(lowered.value)
  if (value === null || value < 0) return void sending.lacks('Write how far in mm, like 0.06.')
  void step({ what: 'read', place: data.value!.places.length - 1, value: way.value * value })
  lowered.value = ''
}
async function finish(): Promise<void> {
  if (sending.busy) return
  const survey = await sending.run(
    (client_key) => call('post', '/api/visits/{visit_id}/bench/finish', at(), { client_key }),
    'Stored as a survey by paper.',
    ({ id }) => takeAway('/api/surveys/{survey_id}', { survey_id: id }, 'The survey was deleted.'),
  )
  if (!survey) return
  ready.value = false
  await router.push(`/visits/${id.value}/judge`)
}
const leave = (): void => void router.push(`/visits/${id.value}/level`)
onKey({ Escape: leave })
useAwake()
const SHORT: Record<string, string> = {
  free: 'free',
  slight: 'drags',
  strong: 'strong',
  bunches: 'bunches',
  stuck: 'stuck',
}
</script>

<template>
  <div class="card">
    <div class="head">
      <span>{{ visit?.printer.name }}</span>
      <span v-if="data && begun">{{
        data.turnings ? `${count(data.turnings, 'turn')}, pass ${data.passes}` : `pass ${data.passes}`
      }}</span>
      <el-button @click="leave">Close</el-button>
    </div>
    <TroubleNote v-if="error">{{ sentence(error) }}</TroubleNote>
    <div v-else-if="data && !begun" class="body">
      <h1>Level by paper</h1>
      <p>{{ data.why }}</p>
      <ol class="begin">
        <li>Tighten every knob until its spring holds well.</li>
        <li>Heat the bed to printing temperature, tip clean, <b>motors off</b>.</li>
        <li>One corner after the other: feel, turn, feel the next. Stop and go on whenever you like.</li>
      </ol>
      <CautionNote>
        Bed and tip are hot. Hands off both; a strip longer than your hand; fingers clear of the knobs’
        springs.
      </CautionNote>
      <el-button type="primary" class="large" @click="ready = true">I am ready</el-button>
    </div>
    <div v-else-if="data" class="body" aria-live="polite" :data-steps="data.steps.length">
      <TroubleNote v-if="sending.trouble || undoing.trouble">{{ sending.trouble || undoing.trouble }}</TroubleNote>
      <template v-if="data.ask === 'done' && chosen === null">
        <h1>{{ data.title }}</h1>
        <p class="say">{{ data.sentence }}</p>
        <p>{{ data.why }}</p>
        <p v-if="data.shape" class="shape">{{ data.shape }}</p>
        <el-form v-if="data.open" class="stack read" @submit.prevent="read">
          <label class="label" for="lowered"
            >How much? Move the tip at the centre until the strip just drags, and type how far.</label
          >
          <div class="row">
            <el-radio-group v-model="way" aria-label="Which way the tip went"
              ><el-radio-button :value="-1">lower by</el-radio-button
              ><el-radio-button :value="1">higher by</el-radio-button></el-radio-group
            ><el-input id="lowered" v-model="lowered" inputmode="decimal" class="short" placeholder="0.06" />
            mm <el-button native-type="submit">That far</el-button>
          </div>
        </el-form>
        <el-button type="primary" class="large" :loading="sending.busy" @click="finish"
          >Store it, {{ mm(data.likely ?? 0) }}</el-button
        >
      </template>
      <template v-else-if="data.ask === 'turn' && data.turn">
        <div class="pictures">
          <WhereScrew
            class="bed"
            :bed="data.bed"
            :screws="data.places.filter((p) => p.knob)"
            :name="data.turn.name"
          />
          <div class="knob">
            <KnobTurn
              :turns="counting ? data.turn.bold : data.turn.action === 'tighten' ? 0.4 : -0.4"
              :direction="data.turn.direction"
              :figures="counting ? data.turn.bold_figures : ''"
              :leave="false"
              :label="`${VERB[data.turn.action]} ${data.turn.name}, ${data.turn.direction}`"
            />
          </div>
        </div>
        <h1>{{ VERB[data.turn.action] }} {{ data.turn.name }}</h1>
        <p class="how">
          <b>{{ data.turn.direction }}</b> as you see it,
          {{ counting ? data.turn.bold_words : 'until the strip just drags' }}
        </p>
        <el-button v-if="!counting" type="primary" class="large" :loading="sending.busy" @click="drags"
          >It just drags now</el-button
        >
        <el-button v-else type="primary" class="large" :loading="sending.busy" @click="turned"
          >Turned, feel again</el-button
        >
        <el-switch
          v-model="counting"
          aria-label="I count eighths instead"
          active-text="I count eighths instead"
        />
      </template>
      <template v-else-if="here">
        <div class="pictures slim">
          <WhereScrew class="bed" :bed="data.bed" :screws="data.places" :name="here.name" what="place" />
          <div>
            <h1>{{ proposed ? data.title : `Go to ${here.name}` }}</h1>
            <p v-if="proposed" class="quiet">{{ data.sentence }}</p>
          </div>
        </div>
        <FeelButtons :busy="sending.busy" @feel="feel" />
      </template>
      <FoldPart
        v-if="data.ask !== 'done' || chosen !== null"
        title="Why this one, other corners, what was done"
        class="more"
      >
        <p class="small">{{ data.why }}</p>
        <p class="small">
          What is known so far:
          <template v-if="data.high !== null"
            >between {{ mm(data.low!) }} and {{ mm(data.high) }} from corner to corner.</template
          ><template v-else>not enough to say.</template>
        </p>
        <div class="row" role="group" aria-label="Another place">
          <el-button
            v-for="(p, i) in data.places"
            :key="p.name"
            size="small"
            :type="i === place ? 'primary' : undefined"
            @click="chosen = i"
            >{{ p.name }}{{ p.feel ? `: ${SHORT[p.feel]}` : '' }}</el-button
          >
        </div>
        <ol v-if="data.steps.length" class="small steps">
          <li v-for="s in data.steps.slice(-8)" :key="s.id">{{ s.sentence }}</li>
        </ol>
      </FoldPart>
    </div>
    <div v-if="data && begun" class="foot">
      <el-button :disabled="!data.steps.length || sending.busy" @click="undo">Undo the last step</el-button>
      <el-button v-if="data.ask === 'done' && chosen === null" @click="chosen = 0"
        >Feel a corner again</el-button
      >
    </div>
  </div>
</template>

<style scoped src="@/shell/bench.css"></style>
<style scoped>
.body {
  flex: 1;
  display: flex;
  flex-direction: column;
  align-items: center;
  gap: 1.6vh;
  padding: 12px 18px;
  max-width: 760px;
  width: 100%;
  margin: 0 auto;
  font-size: clamp(1.05rem, 2.4vh, 1.35rem);
}
h1 {
  font-size: clamp(1.7rem, min(7vw, 5.4vh), 3.2rem);
  line-height: 1.12;
}
.say,
.how {
  font-size: 1.25em;
}
.begin {
  margin: 0;
  padding-left: 1.3em;
}
.begin li {
  margin: 6px 0;
}
.pictures {
  display: flex;
  align-items: center;
  justify-content: center;
  gap: 5vw;
  width: 100%;
}
.slim {
  display: grid;
  grid-template-columns: min(24vw, 150px) 1fr;
}
.knob {
  width: min(26vh, 46vw);
}
.bed {
  width: min(20vh, 32vw);
}
.slim .bed {
  width: 100%;
}
.large {
  width: 100%;
  min-height: 76px;
  font-size: 1.5rem;
  font-weight: 650;
}
.more {
  width: 100%;
}
.steps {
  margin: 0;
  padding-left: 1.4em;
}
.shape {
  border-left: 4px solid var(--line-2);
  padding-left: 12px;
}
.read {
  width: 100%;
}
.short {
  width: 6em;
}
.foot {
  display: flex;
  background: var(--ground);
  border-top: 1px solid var(--line);
}
.foot .el-button {
  flex: 1;
  min-height: 52px;
  margin: 0;
  font-size: 1.05rem;
}
</style>
