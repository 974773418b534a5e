<script setup lang="ts">
// One instruction at a time, to be read from two metres and used with one thumb.
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useApiQuery } from '@/api/ask'
import { sentence } from '@/api/client'
import { usePlan, useVisit, type Wish } from '@/api/shown'
import KnobTurn from '@/charts/KnobTurn.vue'
import WhereScrew from '@/bed/WhereScrew.vue'
import { useAwake } from '@/shell/awake'
import { mm } from '@/shell/format'
import { onKey } from '@/shell/shortcuts'
import CardDeck from './CardDeck.vue'
import { asPlanned, useTurned } from '@/tramming/turned'

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
const { data: deck, error: deckError } = useApiQuery(
  '/api/visits/{visit_id}/cards',
  () => ({
    visit_id: id.value,
    ...(route.query.lower_middle ? { lower_middle: Number(route.query.lower_middle) } : {}),
  }),
  { once: true },
)
const knobs = computed(() => deck.value?.kind === 'knobs')
const { data: plan, error: planError } = usePlan(survey, wish, knobs)
// in the order the plan suggests
const turns = computed(() =>
  (plan.value?.order.names ?? []).flatMap((name) => plan.value!.turns.filter((t) => t.name === name)),
)
const left = computed(() => (plan.value?.turns ?? []).filter((t) => t.action === 'leave').map((t) => t.name))
const at = ref(0) // 0: caution, then one screw each, then the end
const last = computed(() => turns.value.length + 1)
const turn = computed(() => (at.value > 0 && at.value < last.value ? turns.value[at.value - 1]! : null))
const { sending, save } = useTurned(() => survey.value!)
const VERB = { tighten: 'Tighten', loosen: 'Loosen', leave: 'Leave' } as const

const back = (): void => void (at.value = Math.max(0, at.value - 1))
const next = (): void => void (at.value = Math.min(last.value, at.value + 1))
const leave = (): void => void router.push(`/visits/${id.value}/level`)
const other = ref<InstanceType<typeof CardDeck> | null>(null)
onKey({
  ArrowLeft: () => (knobs.value ? back() : other.value?.back()),
  ArrowRight: () => (knobs.value ? next() : other.value?.next()),
  Escape: leave,
})

useAwake()

async function record(): Promise<void> {
  if (await save(wish.value, asPlanned(plan.value!), '')) await router.push(`/visits/${id.value}/measure`)
}
</script>

<template>
  <div class="card" aria-live="polite">
    <div class="head">
      <span>{{ visit?.printer.name }}</span>
      <span v-if="knobs && plan">{{
        at === 0 ? 'Before you begin' : at < last ? `${at} of ${turns.length}` : 'Done'
      }}</span>
      <el-button class="tile close" @click="leave">Close</el-button>
    </div>
    <div v-if="error || planError || deckError" class="body">
      <p role="alert">{{ sentence(error ?? planError ?? deckError) }}</p>
    </div>
    <div v-else-if="!deck || !visit" class="body"><p role="status">Looking up what is to be done …</p></div>
    <CardDeck v-else-if="!knobs" ref="other" :visit="visit" :deck="deck" />
    <div v-else-if="!plan" class="body"><p role="status">Working out the plan …</p></div>
    <div v-else-if="plan.done" class="body">
      <h1>Leave all screws</h1>
      <p>Nothing to turn: {{ mm(plan.spread_before) }} from highest to lowest.</p>
    </div>
    <div v-else-if="turn" class="body">
      <div class="pictures">
        <WhereScrew class="bed" :bed="visit!.printer.bed" :screws="visit!.printer.screws" :name="turn.name" />
        <div class="knob">
          <KnobTurn
            :turns="turn.rounded"
            :direction="turn.direction"
            :figures="turn.figures"
            :leave="false"
            :label="turn.sentence"
          />
        </div>
      </div>
      <p class="where">{{ turn.name }}</p>
      <h1>{{ VERB[turn.action] }} {{ turn.words }}</h1>
      <p class="how">{{ turn.direction }} as you see it</p>
      <p class="quiet">
        The bed {{ turn.move > 0 ? 'rises' : 'sinks' }} {{ mm(Math.abs(turn.move)) }} there.
      </p>
    </div>
    <div v-else-if="at === 0" class="body">
      <h1>{{ turns.length === 1 ? 'One knob to turn' : `${turns.length} knobs to turn` }}</h1>
      <p v-if="left.length">Leave alone: {{ left.join(', ') }}.</p>
      <CautionNote class="big">
        The bed is hot. Park the head, motors off, fingers clear of anything that moves.
      </CautionNote>
    </div>
    <div v-else class="body">
      <h1>All turned?</h1>
      <p>Expected: {{ mm(plan.spread_after) }} from highest to lowest.</p>
      <TroubleNote v-if="sending.trouble">{{ sending.trouble }}</TroubleNote>
      <el-button type="primary" class="did" :loading="sending.busy" @click="record">I did this</el-button>
    </div>
    <div v-if="knobs" class="foot">
      <el-button class="tile" :disabled="at === 0" @click="back">Back</el-button>
      <el-button class="tile next" :disabled="!plan || plan.done || at === last" @click="next">
        Next
      </el-button>
    </div>
  </div>
</template>

<style scoped src="@/shell/bench.css"></style>
<style scoped src="./at-printer.css"></style>
