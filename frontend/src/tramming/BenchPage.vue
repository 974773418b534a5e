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
import { count, mm } from '@/shell/format'
import { onKey } from '@/shell/shortcuts'
import FeelButtons from '@/surveys/FeelButtons.vue'
import BenchBegin from './BenchBegin.vue'
import BenchMore from './BenchMore.vue'
import BenchRead from './BenchRead.vue'

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
const read = (value: number): void => void step({ what: 'read', place: data.value!.places.length - 1, value })
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
      <BenchBegin :why="data.why" @ready="ready = true" />
    </div>
    <div v-else-if="data" class="body" aria-live="polite" :data-steps="data.steps.length">
      <TroubleNote v-if="sending.trouble || undoing.trouble">{{
        sending.trouble || undoing.trouble
      }}</TroubleNote>
      <template v-if="data.ask === 'done' && chosen === null">
        <h1>{{ data.title }}</h1>
        <p class="say">{{ data.sentence }}</p>
        <p>{{ data.why }}</p>
        <p v-if="data.shape" class="shape">{{ data.shape }}</p>
        <BenchRead v-if="data.open" @read="read" @lacks="sending.lacks" />
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
      <BenchMore
        v-if="data.ask !== 'done' || chosen !== null"
        :data="data"
        :place="place"
        @choose="chosen = $event"
      />
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
.shape {
  border-left: 4px solid var(--line-2);
  padding-left: 12px;
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
