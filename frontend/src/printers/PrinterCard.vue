<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import DriftLine from '@/charts/DriftLine.vue'
import HeightLegend from '@/bed/HeightLegend.vue'
import ReliefMap from '@/bed/ReliefMap.vue'
import VerdictBadge from '@/charts/VerdictBadge.vue'
import { goTo } from '@/visits/steps'
import { ago, asDate, spreadOf } from '@/shell/format'

const props = defineProps<{ card: Schemas['PrinterCard']; busy: boolean }>()
defineEmits<{ begin: [] }>()
const printer = computed(() => props.card.printer)
// readings of the open visit: is it measured, or measured again?
const measured = computed(() =>
  Array(props.card.history.find((one) => one.id === props.card.open_visit)?.surveys ?? 0),
)
const last = computed(() => props.card.last)
</script>

<template>
  <article class="sheet card" :aria-label="printer.name">
    <div class="row spread">
      <h2>
        <RouterLink :to="`/printers/${printer.id}`">{{ printer.name }}</RouterLink>
      </h2>
      <VerdictBadge v-if="last && card.bed?.state === 'gone'" level="unsure" word="Measure again" />
      <VerdictBadge v-else-if="last" :level="last.verdict" :word="last.word" />
    </div>
    <div class="two">
      <div>
        <ReliefMap
          small
          :bed="printer.bed"
          :relief="card.relief"
          :screws="printer.screws"
          :label="
            last
              ? `The bed of ${printer.name}, ${spreadOf(last)} from highest to lowest`
              : `The bed of ${printer.name}, not measured yet`
          "
        />
        <HeightLegend v-if="card.relief" :relief="card.relief" compact />
      </div>
      <div class="facts">
        <template v-if="last">
          <p class="big number">{{ spreadOf(last) }}</p>
          <p class="small quiet">highest to lowest</p>
          <p class="small">
            {{ asDate(last.taken_at) }}<br /><span class="quiet">{{ ago(last.taken_at) }}</span>
          </p>
        </template>
        <p v-else class="quiet">Not measured yet.</p>
        <p class="small quiet">
          {{ printer.width }} × {{ printer.depth }} mm,
          {{ printer.screws.length ? `${printer.screws.length} screws` : 'no screws' }}
        </p>
      </div>
    </div>
    <div class="stack">
      <p v-if="card.after" class="said">
        <b>{{ card.after.title }}</b><br />Next: {{ card.after.steps.find((step) => !step.done)?.title }},
        {{ card.after.steps.length - card.after.left }} of {{ card.after.steps.length }} done
      </p>
      <p v-else-if="card.bed && card.bed.state !== 'holds'" class="said">{{ card.bed.reasons[0] }}</p>
      <DriftLine :history="card.history" :good="printer.good_spread" />
    </div>
    <div class="row">
      <RouterLink
        v-if="card.open_visit"
        class="el-button el-button--primary go"
        :to="`/visits/${card.open_visit}`"
        >{{
          card.after
            ? 'Go on with the list'
            : card.next
              ? goTo(card.next.name, { rounds: measured, printer })
              : 'Go on with the visit'
        }}</RouterLink
      >
      <el-button v-else type="primary" :loading="busy" @click="$emit('begin')">Start a visit</el-button>
      <RouterLink :to="`/printers/${printer.id}`">Visits and set-up</RouterLink>
    </div>
  </article>
</template>

<style scoped>
.said {
  border-left: 4px solid var(--act);
  padding-left: 10px;
  font-size: 0.95rem;
}
/* heading, bed, drift and buttons of neighbouring cards stand in line */
.card {
  display: grid;
  grid-row: span 4;
  grid-template-rows: subgrid;
  gap: 12px;
}
.card h2 a {
  color: var(--ink);
  text-decoration: none;
}
.card h2 a:hover {
  text-decoration: underline;
}
.two {
  display: grid;
  grid-template-columns: 1.15fr 1fr;
  gap: 14px;
  align-items: start;
}
.facts {
  display: flex;
  flex-direction: column;
  gap: 6px;
}
.big {
  font-family: var(--head);
  font-size: 1.7rem;
  font-weight: 650;
  line-height: 1;
}
.go {
  text-decoration: none;
}
</style>
