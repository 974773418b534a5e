<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { later } from '@/components/later'
import { sentence, type Schemas } from '@/api/client'
import { useMap, usePlan, USUAL, type Wish } from '@/api/shown'
import { mm } from '@/shell/format'
import SurveyMap from '@/surveys/SurveyMap.vue'
import WeakenedBy from '@/probing/WeakenedBy.vue'
import RoundChoice from '@/visits/RoundChoice.vue'
import KeepOffset from '@/first_layer/KeepOffset.vue'
import BenchLink from './BenchLink.vue'
import OutlookBanner from './OutlookBanner.vue'
import FoldPart from '@/components/FoldPart.vue'
import PlanChoice from './PlanChoice.vue'
import PlanTurns from './PlanTurns.vue'
import { DONE } from './turned'
import TurnedForm from './TurnedForm.vue'

const BeamPanel = later(() => import('@/levelling/BeamPanel.vue'))
const ShimPanel = later(() => import('@/levelling/ShimPanel.vue'))
const WhatIf = later(() => import('./WhatIf.vue'))
const props = defineProps<{ visit: Schemas['VisitOut']; round: number }>()
defineEmits<{ round: [index: number] }>()
const current = computed(() => props.visit.rounds[props.round] ?? null)
const survey = computed(() => current.value?.survey ?? null)
const newest = computed(() => props.round === props.visit.rounds.length - 1)
const open = computed(() => newest.value && !props.visit.ended_at && !current.value?.moved)
const wish = ref<Wish>({ ...USUAL })
watch(
  () => survey.value?.id,
  () => (wish.value = { hold: wish.value.hold, reference: wish.value.reference }),
)
const screws = computed(() => props.visit.printer.screws.length > 0)
const {
  data: plan,
  error,
  isPending,
} = usePlan(
  () => survey.value?.id ?? null,
  wish,
  () => screws.value && survey.value?.verdict !== 'open',
)
const { data: map } = useMap(() => survey.value?.id ?? null)
// when nothing can be planned as chosen, the choice stays where it can be mended
const choice = ref<Schemas['PlanOut'] | null>(null)
watch(plan, (p) => p && (choice.value = p), { immediate: true })
const trying = ref(false)
const tried = ref<Record<string, number> | null>(null)
const atPrinter = computed(() => ({ path: `/visits/${props.visit.id}/at-printer`, query: { ...wish.value } }))
const stay = computed(() => !!plan.value && (plan.value.done || plan.value.outlook.decision === 'leave'))
const testable = computed(() => plan.value?.suggested_hold && wish.value.hold !== plan.value.suggested_hold)
function take(turns: Record<string, number>): void {
  tried.value = turns
  document.getElementById('turned')?.scrollIntoView({ block: 'center' })
}
</script>

<template>
  <section v-if="!survey" class="sheet stack">
    <h2>No plan yet</h2>
    <p>A plan needs readings first.</p>
    <p><RouterLink :to="`/visits/${visit.id}/measure`">Put in readings</RouterLink></p>
    <template v-if="screws && !visit.ended_at">
      <h3>Or level by paper, without a plan</h3>
      <p>One corner after the other on the phone: feel, turn until the strip just drags, on to the next.</p>
      <p><BenchLink :visit="visit.id" /></p>
    </template>
  </section>
  <div v-else-if="survey.verdict === 'open'" class="stack">
    <RoundChoice :rounds="visit.rounds" :round="round" @round="$emit('round', $event)" />
    <section class="sheet stack">
      <h2>Paper said only which way</h2>
      <p>
        At some places of this survey the strip slid freely or would not move, so nobody knows how far a knob
        has to go. Nothing is planned on a guess.
      </p>
      <p v-if="open && screws"><BenchLink :visit="visit.id" /></p>
      <p>
        Can the machine move Z in steps?
        <RouterLink :to="`/visits/${visit.id}/measure`">Lower until it drags and type the Z</RouterLink>: then
        one round gives a whole plan.
      </p>
    </section>
  </div>
  <div v-else class="stack">
    <RoundChoice :rounds="visit.rounds" :round="round" @round="$emit('round', $event)" />
    <section v-if="current!.moved" class="sheet stack">
      <h2>
        {{
          current!.turning || current!.adjustments.some((one) => one.kind !== 'mesh')
            ? 'Done after this survey'
            : 'The bed lies otherwise now'
        }}
      </h2>
      <ul v-if="current!.turning" class="turned">
        <li v-for="s in current!.turning.screws" :key="s.name">
          {{ s.name }}: {{ DONE[s.action] }}{{ s.action === 'leave' ? '' : ` ${s.figures} turn` }}
        </li>
      </ul>
      <KeepOffset v-if="newest && current!.turning?.keep" :visit="visit" :keep="current!.turning.keep" />
      <p v-for="a in current!.adjustments.filter((one) => one.kind !== 'mesh')" :key="a.id">
        <b>{{ a.title }}.</b> {{ a.detail }}
      </p>
      <p v-if="newest && !visit.ended_at" class="row">
        <RouterLink
          class="el-button el-button--primary el-button--large go"
          :to="`/visits/${visit.id}/measure`"
          >Measure again</RouterLink
        >
      </p>
    </section>
    <BeamPanel v-if="visit.printer.beam_screws === 2" :visit="visit" :survey="survey.id" :open="open" />
    <ShimPanel v-if="!screws" :key="survey.id" :visit="visit" :survey="survey.id" :open="open" />
    <template v-else>
      <template v-if="error">
        <div class="trouble" role="alert">
          {{ sentence(error) }}
          <el-button
            v-if="wish.points || wish.reference !== 'least_squares'"
            class="el-button el-button--small"
            @click="wish = { ...USUAL }"
          >
            Back to all readings
          </el-button>
        </div>
        <section v-if="choice?.survey_id === survey.id" class="sheet stack">
          <PlanChoice v-model="wish" :plan="choice" :x="map?.x ?? []" :y="map?.y ?? []" />
        </section>
      </template>
      <WaitBox v-else-if="isPending" says="Working out the plan …" />
      <template v-if="plan">
        <div class="worktable">
          <div class="stack">
            <WeakenedBy :said="visit.weaknesses.plan" />
            <section v-if="plan.slipping" class="sheet stack" aria-label="A knob that slips">
              <h3>A knob does less than it should</h3>
              <CautionNote>{{ plan.slipping }}</CautionNote>
              <p class="row">
                <el-button v-if="testable" @click="wish = { ...wish, hold: plan.suggested_hold! }"
                  >Plan without {{ plan.suggested_hold }}</el-button
                ><RouterLink :to="`/printers/${visit.printer.id}#learned`"
                  >What was learned of the knobs</RouterLink
                >
              </p>
            </section>
            <section class="sheet stack" aria-label="Plan">
              <div class="row spread top">
                <OutlookBanner :outlook="plan.outlook" :done="plan.done" />
                <RouterLink v-if="!stay && open" class="el-button go" :to="atPrinter"
                  >At the printer</RouterLink
                >
              </div>
              <component
                :is="stay && !plan.done ? FoldPart : 'div'"
                :title="stay && !plan.done ? 'What would still take a little off' : undefined"
                class="stack"
              >
                <PlanTurns :turns="plan.turns" :order="plan.order.names" />
                <p v-if="plan.one_side" class="small">
                  <TermHint term="slack">Where you loosen</TermHint>: {{ plan.one_side }}
                </p>
                <p class="result">
                  From <b class="number">{{ mm(plan.spread_before) }}</b> to an expected
                  <b class="number">{{ mm(plan.spread_after) }}</b> between highest and lowest
                  reading<template v-if="plan.spread_after > plan.spread_before + 0.004"
                    >: the tilt goes, and what stays is shape</template
                  >.
                </p>
              </component>
              <p v-if="plan.done" class="quiet">
                No turn would make it better by more than the readings can tell.
              </p>
              <TurnedForm
                v-if="open"
                id="turned"
                :visit="visit"
                :survey="survey.id"
                :plan="plan"
                :wish="wish"
                :tried="tried"
                :stay="stay"
              />
            </section>
          </div>
          <div class="stack">
            <SurveyMap :key="survey.id" :survey="survey.id" :plan="plan" can-plan />
            <p v-if="open && screws && !stay" class="small">
              <RouterLink :to="`/visits/${visit.id}/bench`"
                >Rather by paper, one corner after the other</RouterLink
              >
            </p>
            <section class="sheet stack why">
              <h3>Why, and what it rests on</h3>
              <p v-if="!plan.done" class="small">{{ plan.order.why }}</p>
              <p class="small">{{ plan.centre_sentence }}</p>
              <p class="small">{{ plan.learned_sentence }}</p>
              <p class="small">
                {{ plan.noise_sentence }} A correction smaller than its uncertainty reads “leave”.
              </p>
              <PlanChoice v-model="wish" :plan="plan" :x="map?.x ?? []" :y="map?.y ?? []" />
              <CautionNote>
                The bed is hot and the knobs sit under it. Turn the motors off or park the head first, and
                keep fingers clear of moving parts.
              </CautionNote>
            </section>
          </div>
        </div>
        <p v-if="!trying"><el-button @click="trying = true">What if you turned otherwise?</el-button></p>
        <WhatIf
          v-else
          :visit="visit"
          :survey="survey.id"
          :plan="plan"
          :wish="wish"
          :can-take="open"
          @take="take"
        />
      </template>
    </template>
  </div>
</template>

<style scoped>
.worktable {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 18px;
  align-items: start;
}
.top {
  align-items: flex-start;
}
.go {
  text-decoration: none;
}
.result {
  font-size: 1.05rem;
}
.turned {
  margin: 0;
  padding-left: 20px;
}
@media (max-width: 900px) {
  .worktable {
    grid-template-columns: 1fr;
  }
}
</style>
