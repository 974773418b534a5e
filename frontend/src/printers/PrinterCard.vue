<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import DriftLine from '@/drawing/DriftLine.vue'
import HeightLegend from '@/drawing/HeightLegend.vue'
import ReliefMap from '@/drawing/ReliefMap.vue'
import VerdictBadge from '@/drawing/VerdictBadge.vue'
import { ago, asDate, spreadOf } from '@/shell/format'

const props = defineProps<{ card: Schemas['PrinterCard']; busy: boolean }>()
defineEmits<{ begin: [] }>()
const printer = computed(() => props.card.printer)
const last = computed(() => props.card.last)
</script>

<template>
  <article class="sheet card" :aria-label="printer.name">
    <div class="row spread">
      <h2><RouterLink :to="`/printers/${printer.id}`">{{ printer.name }}</RouterLink></h2>
      <VerdictBadge v-if="last" :level="last.verdict" :word="last.word" />
    </div>
    <div class="two">
      <div>
        <ReliefMap
        small :bed="printer.bed" :relief="card.relief" :screws="printer.screws"
        :label="last ? `The bed of ${printer.name}, ${spreadOf(last)} from highest to lowest` : `The bed of ${printer.name}, not measured yet`"
        />
        <HeightLegend v-if="card.relief" :relief="card.relief" compact />
      </div>
      <div class="facts">
        <template v-if="last">
          <p class="big number">{{ spreadOf(last) }}</p>
          <p class="small quiet">highest to lowest</p>
          <p class="small">{{ asDate(last.taken_at) }}<br /><span class="quiet">{{ ago(last.taken_at) }}</span></p>
        </template>
        <p v-else class="quiet">Not measured yet.</p>
        <p class="small quiet">{{ printer.width }} × {{ printer.depth }} mm, {{ printer.screws.length ? `${printer.screws.length} screws` : 'no screws' }}</p>
      </div>
    </div>
    <div><DriftLine :history="card.history" :good="printer.good_spread" /></div>
    <div class="row">
      <RouterLink v-if="card.open_visit" class="el-button el-button--primary go" :to="`/visits/${card.open_visit}`">Go on with the visit</RouterLink>
      <el-button v-else type="primary" :loading="busy" @click="$emit('begin')">Start a visit</el-button>
      <RouterLink :to="`/printers/${printer.id}`">Visits and set-up</RouterLink>
    </div>
  </article>
</template>

<style scoped>
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
