<script setup lang="ts">
import { computed, ref } from 'vue'
import { sentence, type Schemas } from '@/api/client'
import { usePlan } from '@/api/queries'
import { mm } from '@/shell/format'
import SurveyMap from '@/surveys/SurveyMap.vue'
import WeakenedBy from '@/probing/WeakenedBy.vue'
import RoundChoice from '@/visits/RoundChoice.vue'
import PlanTurns from './PlanTurns.vue'
import { DONE } from './turned'
import TurnedForm from './TurnedForm.vue'

const props = defineProps<{ visit: Schemas['VisitOut']; round: number }>()
defineEmits<{ round: [index: number] }>()
const current = computed(() => props.visit.rounds[props.round] ?? null)
const survey = computed(() => current.value?.survey ?? null)
const newest = computed(() => props.round === props.visit.rounds.length - 1)
const hold = ref('centre')
const screws = computed(() => props.visit.printer.screws.length > 0)
const { data: plan, error, isPending } = usePlan(() => survey.value?.id ?? null, hold, screws)
const effect = computed(() => plan.value?.holds.find((h) => h.value === hold.value)?.effect ?? '')
</script>

<template>
  <section v-if="!screws" class="sheet stack">
    <h2>No screws to turn</h2>
    <p>{{ visit.printer.name }} is set up without screws. The map still shows the tilt; pads or shims under the plate can take it out.</p>
    <p class="row"><RouterLink :to="`/visits/${visit.id}/judge`">To the map</RouterLink> <RouterLink :to="`/printers/${visit.printer.id}/edit`">Change the set-up</RouterLink></p>
  </section>
  <section v-else-if="!survey" class="sheet stack">
    <h2>No plan yet</h2>
    <p>A plan needs readings first.</p>
    <p><RouterLink :to="`/visits/${visit.id}/measure`">Put in readings</RouterLink></p>
  </section>
  <div v-else class="stack">
    <RoundChoice :rounds="visit.rounds" :round="round" @round="$emit('round', $event)" />
    <div v-if="error" class="trouble" role="alert">{{ sentence(error) }}</div>
    <p v-else-if="isPending" class="quiet" role="status">Working out the plan …</p>
    <template v-else-if="plan">
      <section v-if="current!.turning" class="sheet stack">
        <h2>Turned after this survey</h2>
        <ul class="turned"><li v-for="s in current!.turning.screws" :key="s.name">{{ s.name }}: {{ DONE[s.action] }}{{ s.action === 'leave' ? '' : ` ${s.figures} turn` }}</li></ul>
        <p v-if="newest && !visit.ended_at" class="row">
          <RouterLink class="el-button el-button--primary el-button--large go" :to="`/visits/${visit.id}/measure`">Measure again</RouterLink>
        </p>
      </section>
      <div class="worktable">
        <div class="stack">
          <WeakenedBy :said="visit.weaknesses.plan" />
          <section class="sheet stack" aria-label="Plan">
            <div class="row spread">
              <h2>{{ plan.done ? 'Leave all screws as they are' : survey.verdict === 'turn' ? 'Turn like this' : 'No need to turn' }}</h2>
              <RouterLink v-if="!plan.done && !current!.turning" class="el-button go" :to="`/visits/${visit.id}/at-printer?hold=${encodeURIComponent(hold)}`">At the printer</RouterLink>
            </div>
            <p v-if="!plan.done && survey.verdict !== 'turn'" class="hint">
              There is no tilt worth turning for: what varies is mostly the plate's own shape. If you like, this would still take a little off.
            </p>
            <PlanTurns :turns="plan.turns" />
            <p class="result">
              From <b class="number">{{ mm(plan.spread_before) }}</b> to an expected <b class="number">{{ mm(plan.spread_after) }}</b> between highest and lowest reading.
            </p>
            <p v-if="plan.done" class="quiet">No turn would make it better by more than the readings can tell.</p>
            <TurnedForm v-if="newest && !visit.ended_at && !current!.turning" :visit="visit" :survey="survey.id" :plan="plan" />
          </section>
        </div>
        <div class="stack">
          <SurveyMap :key="survey.id" :survey="survey.id" :plan="plan" can-plan />
          <section class="sheet stack why">
            <h3>Why, and what it rests on</h3>
            <div>
              <label class="label" for="hold">Plan with</label>
              <select id="hold" v-model="hold" class="field">
                <option v-for="h in plan.holds" :key="h.value" :value="h.value">{{ h.label }}</option>
              </select>
              <p class="small quiet">{{ effect }}</p>
            </div>
            <p class="small">{{ plan.centre_sentence }}</p>
            <p class="small">{{ plan.noise_sentence }} A correction smaller than its uncertainty reads “leave”.</p>
            <p class="small">All screws move along one plane, so they do not fight each other; of all plans in whole steps of your hand, this one leaves the least.</p>
            <p class="caution">The bed is hot and the knobs sit under it. Turn the motors off or park the head first, and keep fingers clear of moving parts.</p>
          </section>
        </div>
      </div>
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
.go {
  text-decoration: none;
}
.result {
  font-size: 1.05rem;
}
.hint {
  background: var(--mild-ground);
  border-left: 4px solid var(--mild);
  padding: 8px 12px;
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
