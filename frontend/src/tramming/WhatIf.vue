<script setup lang="ts">
// Turn the knobs in thought: the bed follows, and two plans stand side by side. The server works it out.
import { computed, reactive, ref, watch } from 'vue'
import { call } from '@/api/ask'
import { type Schemas } from '@/api/client'
import { useFollowing } from '@/api/latest'
import type { Wish } from '@/api/shown'
import HeightLegend from '@/bed/HeightLegend.vue'
import KnobDial from '@/charts/KnobDial.vue'
import ReliefMap from '@/bed/ReliefMap.vue'
import VerdictBadge from '@/charts/VerdictBadge.vue'
import type { Column } from '@/components/rows'
import { figure, mm } from '@/shell/format'

const props = defineProps<{
  visit: Schemas['VisitOut']
  survey: number
  plan: Schemas['PlanOut']
  wish: Wish
  canTake: boolean
}>()
const emit = defineEmits<{ take: [turns: Record<string, number>] }>()
type Seen = Schemas['WhatIfOut']
const turns = reactive<Record<string, number>>({})
const mine = ref<Seen | null>(null)
const kept = ref<{ name: string; seen: Seen } | null>(null)
const planned = computed(() => Object.fromEntries(props.plan.turns.map((t) => [t.name, t.rounded])))
// how a turn is called is the server's; what it said of another turn must not stand beside this one
const told = (name: string) =>
  mine.value?.screws.find((one) => one.name === name && Math.abs(one.turns - (turns[name] ?? 0)) < 1e-6)
const following = useFollowing(
  () =>
    call(
      'post',
      '/api/surveys/{survey_id}/what-if',
      { survey_id: props.survey },
      { ...props.wish, turns: { ...turns } },
    ),
  (answer) => (mine.value = answer),
)
function set(values: Record<string, number>): void {
  Object.assign(turns, values)
  void following.follow()
}
watch(
  () => props.plan,
  () => set(planned.value),
  { immediate: true },
)
const none = (): void => set(Object.fromEntries(Object.keys(turns).map((name) => [name, 0])))
const keep = (): void => void (mine.value && (kept.value = { name: 'Kept', seen: mine.value }))
const rows = computed(() => [
  ...(mine.value ? [{ name: 'These turns', seen: mine.value }] : []),
  ...(kept.value ? [kept.value] : []),
])
const COLUMNS: Column<{ name: string; seen: Seen }>[] = [
  { key: 'name', title: 'Plan', says: (row) => row.name },
  {
    key: 'tilt',
    title: 'Tilt left',
    says: (row) => `${figure(row.seen.tilt)} ± ${mm(row.seen.margin)}`,
    right: true,
  },
  { key: 'spread', title: 'Highest to lowest', says: (row) => mm(row.seen.spread), right: true },
  { key: 'middle', title: 'Middle', says: (row) => mm(row.seen.centre_change, true), right: true },
  {
    key: 'turns',
    title: 'Turns',
    says: (row) => `${row.seen.turned.toFixed(2)} at ${row.seen.knobs}`,
    right: true,
  },
  { key: 'then', title: 'Then', says: (row) => row.seen.verdict.word },
  { key: 'chance', title: 'Chance', says: (row) => row.seen.chance_words, right: true },
]
// laid out as the bed lies before you
const grid = computed(() => {
  const middle = props.plan.turns.reduce((sum, t) => sum + t.y, 0) / props.plan.turns.length
  const row = (back: boolean) =>
    props.plan.turns.filter((t) => t.y > middle === back).toSorted((a, b) => a.x - b.x)
  return [row(true), row(false)].filter((r) => r.length)
})
</script>

<template>
  <section class="sheet stack" aria-label="What if">
    <div class="row spread">
      <h2>What if you turned otherwise?</h2>
      <div class="row">
        <el-button size="small" @click="set(planned)">As planned</el-button>
        <el-button size="small" @click="none">All at rest</el-button>
        <el-button size="small" @click="keep">Keep to compare</el-button>
      </div>
    </div>
    <p class="quiet small">Drag a knob round, or use the arrow keys on it. Nothing is recorded.</p>
    <div class="try">
      <div class="knobs">
        <div v-for="(row, i) in grid" :key="i" class="knob-row">
          <div v-for="t in row" :key="t.name" class="knob">
            <KnobDial
              :turns="turns[t.name] ?? 0"
              :divisions="t.divisions"
              :tightens="t.tightens"
              :name="t.name"
              :figures="told(t.name)?.figures ?? ' …'"
              @turn="set({ [t.name]: $event })"
            />
            <p class="small">
              {{ t.name }}<br /><span class="quiet">{{ told(t.name)?.words }}</span>
            </p>
          </div>
        </div>
      </div>
      <div v-if="mine" class="stack">
        <ReliefMap
          :bed="visit.printer.bed"
          :relief="mine.relief"
          :limit="Math.max(mine.relief.limit, plan.relief.limit)"
          :screws="visit.printer.screws"
          :label="`Expected bed: ${mm(mine.spread)} from highest to lowest`"
        />
        <HeightLegend :relief="mine.relief" :limit="Math.max(mine.relief.limit, plan.relief.limit)" />
      </div>
    </div>
    <TroubleNote v-if="following.trouble">{{ following.trouble }}</TroubleNote>
    <DataTable v-if="mine" still :rows="rows" :columns="COLUMNS" row-key="name" name="plans">
      <template #then="{ row }"
        ><VerdictBadge :level="row.seen.verdict.level" :word="row.seen.verdict.word"
      /></template>
    </DataTable>
    <p v-if="mine" class="small">{{ mine.sentence }}</p>
    <p class="row">
      <el-button v-if="mine && canTake" @click="emit('take', { ...turns })">I turned it like this</el-button>
    </p>
  </section>
</template>

<style scoped>
.try {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1.2fr);
  gap: 18px;
  align-items: center;
}
.knobs {
  display: grid;
  gap: 18px;
}
.knob-row {
  display: flex;
  justify-content: space-around;
  gap: 18px;
}
.knob {
  flex: 1 1 0;
  max-width: 150px;
  text-align: center;
}
@media (max-width: 800px) {
  .try {
    grid-template-columns: 1fr;
  }
}
</style>
