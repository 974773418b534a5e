<script setup lang="ts">
import { computed, provide, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { sentence } from '@/api/client'
import { useVisit } from '@/api/shown'
import { later } from '@/components/later'
import { asDay } from '@/shell/format'
import type { StepName } from '@/shell/router'
import { onKey } from '@/shell/shortcuts'
import { afterPaint } from '@/shell/soon'
import { shownRound, showRound, touring } from '@/shell/tour'
import AfterList from './AfterList.vue'
import HappenedDialog from './HappenedDialog.vue'
import { STEP_PAGES } from './pages'
import PastedText from './PastedText.vue'
import RouteBar from './RouteBar.vue'
import SetupBar from './SetupBar.vue'
import { useTrail } from '@/shell/trail'

const SoundStep = later(STEP_PAGES.sound)
const WarmStep = later(STEP_PAGES.warm)
const TrustStep = later(STEP_PAGES.trust)
const MeasureStep = later(STEP_PAGES.measure)
const JudgeStep = later(STEP_PAGES.judge)
const LevelStep = later(STEP_PAGES.level)
const CompensateStep = later(STEP_PAGES.compensate)
const OffsetPage = later(STEP_PAGES.offset)
const FirstLayerPage = later(STEP_PAGES['first-layer'])
const FinishStep = later(STEP_PAGES.finish)
const VisitTour = later(() => import('./VisitTour.vue'))

const route = useRoute()
const router = useRouter()
const id = computed(() => Number(route.params.id))
const { data: visit, error, isPending } = useVisit(id)

const step = computed<StepName>(
  () => (route.params.step as StepName | '') || (visit.value?.next?.name ?? 'finish'),
)
const pasted = ref<InstanceType<typeof PastedText> | null>(null)
provide('sort', (text: string) => pasted.value?.sort(text, false))
const happened = ref(false)
const tell = (): void => afterPaint(() => (happened.value = true))
const newest = computed(() => (visit.value?.rounds.length ?? 0) - 1)
const chosen = ref<number | null>(null)
watch([newest, id], () => (chosen.value = null))
const round = computed(() => Math.min(chosen.value ?? newest.value, newest.value))
const go = (name: string) => () => void router.push(`/visits/${id.value}/${name}`)
const nth = (i: number) => () => void (visit.value?.route[i] && go(visit.value.route[i].name)())
onKey({
  ...Object.fromEntries([1, 2, 3, 4, 5, 6, 7, 8, 9, 0].map((digit, i) => [String(digit), nth(i)])),
  h: () => void (visit.value && !visit.value.ended_at && tell()),
  f: go('first-layer'),
  o: go('offset'),
  k: () => void (visit.value && !visit.value.ended_at && router.push(`/visits/${id.value}/keypad`)),
  p: () => void (newest.value >= 0 && router.push(`/visits/${id.value}/at-printer`)),
})
useTrail(() =>
  visit.value
    ? [
        { name: visit.value.printer.name, to: `/printers/${visit.value.printer.id}` },
        { name: `Visit of ${asDay(visit.value.started_at)}` },
      ]
    : [],
)
</script>

<template>
  <WaitBox v-if="isPending" says="Opening the visit …" kind="page" />
  <div v-else-if="error" class="trouble" role="alert">
    {{ sentence(error) }} <RouterLink to="/">To the workshop</RouterLink>
  </div>
  <div v-else-if="visit" class="stack visit">
    <div class="head">
      <h1>
        <RouterLink :to="`/printers/${visit.printer.id}`" class="name">{{ visit.printer.name }}</RouterLink>
        <span class="when quiet">{{ asDay(visit.started_at) }}{{ visit.ended_at ? ', closed' : '' }}</span>
      </h1>
      <SetupBar :visit="visit" class="setup" />
      <el-button v-if="!visit.ended_at" class="no-print" data-happened @click="tell"
        >Something happened</el-button
      >
    </div>
    <HappenedDialog v-model="happened" :printer="visit.printer" :visit="visit.id" />
    <component :is="VisitTour" v-if="touring" />
    <p v-if="!shownRound && step === 'sound' && !visit.rounds.length && !visit.ended_at" class="row small">
      <span>Your first visit?</span><el-button link type="primary" @click="showRound">Show me round</el-button
      ><el-button link @click="shownRound = true">I know my way</el-button>
    </p>
    <RouteBar :route="visit.route" :visit="visit.id" :active="step" />
    <AfterList
      v-if="visit.after"
      :printer="visit.printer.id"
      :line="!!visit.printer.port"
      :visit="visit.id"
      :after="visit.after"
    />
    <CautionNote
      v-if="
        visit.bed &&
        visit.bed.state !== 'holds' &&
        !visit.ended_at &&
        ['judge', 'level', 'compensate', 'first-layer', 'finish'].includes(step)
      "
      role="status"
    >
      <b>{{
        visit.bed.state === 'gone'
          ? 'The newest survey shows the bed before.'
          : 'The newest survey is doubtful.'
      }}</b>
      {{ visit.bed.reasons.join(' ') }}
    </CautionNote>
    <div
      v-if="visit.suit.remarks.length && !visit.ended_at"
      class="suit stack"
      :class="visit.suit.state"
      role="status"
    >
      <p v-for="one in visit.suit.remarks" :key="one">{{ one }}</p>
    </div>
    <PastedText v-if="!visit.ended_at" :key="visit.id" ref="pasted" :visit="visit" />
    <SoundStep v-if="step === 'sound'" :key="visit.id" :visit="visit" />
    <WarmStep v-else-if="step === 'warm'" :key="visit.id" :visit="visit" />
    <TrustStep v-else-if="step === 'trust'" :key="visit.id" :visit="visit" />
    <MeasureStep v-else-if="step === 'measure'" :key="visit.id" :visit="visit" />
    <JudgeStep v-else-if="step === 'judge'" :visit="visit" :round="round" @round="chosen = $event" />
    <LevelStep v-else-if="step === 'level'" :visit="visit" :round="round" @round="chosen = $event" />
    <CompensateStep
      v-else-if="step === 'compensate'"
      :visit="visit"
      :round="round"
      @round="chosen = $event"
    />
    <OffsetPage v-else-if="step === 'offset'" :key="visit.id" :visit="visit" />
    <FirstLayerPage
      v-else-if="step === 'first-layer'"
      :visit="visit"
      :round="round"
      @round="chosen = $event"
    />
    <FinishStep v-else :visit="visit" />
  </div>
</template>

<style scoped>
.head {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 24px;
  align-items: center;
}
@media (max-width: 640px) {
  .visit {
    gap: 8px;
  }
  .head {
    gap: 6px 12px;
  }
  .head h1 {
    flex: 1;
    font-size: 1.3rem;
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .head .el-button {
    padding: 8px 10px;
  }
  .head .when {
    font-size: 0.9rem;
    margin-left: 4px;
  }
  .setup {
    flex: 1 0 100%;
    order: 1;
  }
}
.suit {
  gap: 4px;
  background: var(--mild-ground);
  border-left: 4px solid var(--mild);
  padding: 8px 12px;
  border-radius: 0 var(--round) var(--round) 0;
}
.suit.unsuitable {
  background: var(--bad-ground);
  border-color: var(--bad);
}
.setup {
  flex: 1 1 560px;
}
.name {
  color: var(--ink);
  text-decoration: none;
}
.name:hover {
  text-decoration: underline;
}
.when {
  font-family: var(--text);
  font-size: 1rem;
  font-weight: 400;
  margin-left: 8px;
}
</style>
