<script setup lang="ts">
// One instruction at a time, to be read from two metres and used with one thumb.
import { useWakeLock } from '@vueuse/core'
import { computed, onMounted, onUnmounted, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { sentence } from '@/api/client'
import { api, useChange, usePlan, useVisit, type Wish } from '@/api/queries'
import KnobTurn from '@/drawing/KnobTurn.vue'
import WhereScrew from '@/drawing/WhereScrew.vue'
import { mm } from '@/shell/format'
import { onKey } from '@/shell/shortcuts'
import { tell } from '@/shell/undo'
import { asPlanned, useTurned } from './turned'

const route = useRoute()
const router = useRouter()
const id = computed(() => Number(route.params.id))
const { data: visit, error } = useVisit(id)
const newest = computed(() => visit.value?.rounds.at(-1) ?? null)
const survey = computed(() => newest.value?.survey.id ?? null)
const wish = ref<Wish>({
  hold: String(route.query.hold ?? 'centre'),
  reference: (route.query.reference as Wish['reference']) ?? 'least_squares',
  ...(route.query.points ? { points: String(route.query.points) } : {}),
})
const { data: plan, error: planError } = usePlan(survey, wish, () => (visit.value?.printer.screws.length ?? 0) > 0)
// in the order the plan suggests
const turns = computed(() => (plan.value?.order.names ?? []).flatMap((name) => plan.value!.turns.filter((t) => t.name === name)))
const left = computed(() => (plan.value?.turns ?? []).filter((t) => t.action === 'leave').map((t) => t.name))
const at = ref(0) // 0: caution, then one screw each, then the end
const last = computed(() => turns.value.length + 1)
const turn = computed(() => (at.value > 0 && at.value < last.value ? turns.value[at.value - 1]! : null))
const trouble = ref('')
const { save, busy } = useTurned(() => survey.value!)
const remove = useChange(api.deleteTurning)
const VERB = { tighten: 'Tighten', loosen: 'Loosen', leave: 'Leave' } as const

const back = (): void => void (at.value = Math.max(0, at.value - 1))
const next = (): void => void (at.value = Math.min(last.value, at.value + 1))
const leave = (): void => void router.push(`/visits/${id.value}/level`)
onKey({ ArrowLeft: back, ArrowRight: next, Escape: leave })

const wake = useWakeLock()
onMounted(() => wake.request('screen').catch(() => undefined))
onUnmounted(() => wake.release().catch(() => undefined))

async function record(): Promise<void> {
  trouble.value = ''
  try {
    const turning = await save(wish.value, asPlanned(plan.value!), '')
    tell('Recorded. Now measure again.', () => remove.mutateAsync(turning.id))
    await router.push(`/visits/${id.value}/measure`)
  } catch (e) {
    trouble.value = sentence(e)
  }
}
</script>

<template>
  <div class="card" aria-live="polite">
    <div class="head">
      <span>{{ visit?.printer.name }}</span>
      <span v-if="plan">{{ at === 0 ? 'Before you begin' : at < last ? `${at} of ${turns.length}` : 'Done' }}</span>
      <button type="button" class="close" @click="leave">Close</button>
    </div>
    <div v-if="error || planError" class="body"><p role="alert">{{ sentence(error ?? planError) }}</p></div>
    <div v-else-if="visit && (!survey || !visit.printer.screws.length)" class="body"><h1>Nothing to turn</h1><p>{{ survey ? 'This bed has no screws.' : 'Take a survey first.' }}</p></div>
    <div v-else-if="visit && newest?.moved" class="body"><h1>Measure again</h1><p>{{ visit.bed?.reasons[0] ?? 'The bed was moved after this survey.' }}</p></div>
    <div v-else-if="!plan" class="body"><p role="status">Working out the plan …</p></div>
    <div v-else-if="plan.done" class="body"><h1>Leave all screws</h1><p>Nothing to turn: {{ mm(plan.spread_before) }} from highest to lowest.</p></div>
    <div v-else-if="turn" class="body">
      <div class="pictures">
        <WhereScrew class="bed" :bed="visit!.printer.bed" :screws="visit!.printer.screws" :name="turn.name" />
        <div class="knob"><KnobTurn :turns="turn.rounded" :direction="turn.direction" :figures="turn.figures" :leave="false" :label="turn.sentence" /></div>
      </div>
      <p class="where">{{ turn.name }}</p>
      <h1>{{ VERB[turn.action] }} {{ turn.words }}</h1>
      <p class="how">{{ turn.direction }} as you see it</p>
      <p class="quiet">The bed {{ turn.move > 0 ? 'rises' : 'sinks' }} {{ mm(Math.abs(turn.move)) }} there.</p>
    </div>
    <div v-else-if="at === 0" class="body">
      <h1>{{ turns.length === 1 ? 'One knob to turn' : `${turns.length} knobs to turn` }}</h1>
      <p v-if="left.length">Leave alone: {{ left.join(', ') }}.</p>
      <p class="caution big">The bed is hot. Park the head, motors off, fingers clear of anything that moves.</p>
    </div>
    <div v-else class="body">
      <h1>All turned?</h1>
      <p>Expected: {{ mm(plan.spread_after) }} from highest to lowest.</p>
      <p v-if="trouble" class="trouble" role="alert">{{ trouble }}</p>
      <el-button type="primary" class="did" :loading="busy" @click="record">I did this</el-button>
    </div>
    <div class="foot">
      <button type="button" :disabled="at === 0" @click="back">Back</button>
      <button type="button" class="next" :disabled="!plan || plan.done || at === last || !!newest?.moved" @click="next">Next</button>
    </div>
  </div>
</template>

<style scoped src="@/shell/bench.css"></style>
<style scoped>
.foot {
  grid-template-columns: 1fr 2fr;
}
.body {
  flex: 1;
  display: flex;
  flex-direction: column;
  align-items: center;
  justify-content: center;
  text-align: center;
  gap: 2vh;
  padding: 12px 20px;
  font-size: clamp(1.3rem, min(3.4vw, 4vh), 2.2rem);
}
h1 {
  font-size: clamp(2rem, min(6.4vw, 8vh), 4.6rem);
  line-height: 1.12;
}
.where {
  font-family: var(--head);
  font-weight: 700;
  font-size: clamp(1.7rem, min(5vw, 6.5vh), 3.6rem);
  line-height: 1;
  color: var(--act);
}
.how {
  font-weight: 650;
}
.pictures {
  display: flex;
  align-items: center;
  justify-content: center;
  gap: 4vw;
  width: 100%;
}
.knob {
  width: min(34vh, 52vw);
}
.bed {
  width: min(21vh, 32vw);
}
.caution.big {
  font-size: inherit;
  text-align: left;
  max-width: 24em;
}
.did {
  font-size: 1.8rem;
  min-height: 84px;
  padding: 0 48px;
}
</style>
