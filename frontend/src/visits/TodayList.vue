<script setup lang="ts">
// What is due in the workshop: where, what and why, and one tap to where it is done.
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'

type Due = Schemas['DueOut']
const props = defineProps<{ due: Due[] }>()
/** So many are seen in two seconds; the rest is a tap away. */
const SEEN = 4
const all = ref(false)
const shown = computed((): Due[] => (all.value ? props.due : props.due.slice(0, SEEN)))

const STEP: Partial<Record<Due['kind'], string>> = {
  measure: '/measure',
  level: '/measure',
  offset: '/offset',
  mesh: '/compensate',
  after: '',
  visit: '',
}
const GO: Record<Due['kind'], string> = {
  look: 'Look',
  outcome: 'Tell what came of it',
  experiment: 'Tell what came of it',
  after: 'Go on with the list',
  measure: 'Measure',
  offset: 'Find the offset',
  mesh: 'Make a mesh',
  case: 'Go on with the case',
  coat: 'To its surfaces',
  wash: 'To its surfaces',
  level: 'Measure',
  nozzle: 'To the printer',
  visit: 'Go on with the visit',
}
function toOf(one: Due): string {
  if (one.print_id !== null) return `/prints/${one.print_id}`
  if (one.case_id !== null) return `/cases/${one.case_id}`
  const step = STEP[one.kind]
  return step !== undefined && one.visit_id ? `/visits/${one.visit_id}${step}` : `/printers/${one.printer_id}`
}
const goOf = (one: Due): string =>
  STEP[one.kind] !== undefined && !one.visit_id ? 'To the printer' : GO[one.kind]
</script>

<template>
  <section v-if="due.length" class="sheet today" aria-labelledby="today">
    <h2 id="today">Today</h2>
    <ul>
      <li v-for="one in shown" :key="`${one.printer_id} ${one.kind} ${one.case_id ?? one.print_id}`">
        <p>
          <b>{{ one.printer }}</b> {{ one.sentence }}
        </p>
        <RouterLink class="el-button" :to="toOf(one)" :aria-label="`${goOf(one)}: ${one.printer}`">{{
          goOf(one)
        }}</RouterLink>
      </li>
    </ul>
    <el-button v-if="due.length > shown.length" text @click="all = true">Show all {{ due.length }}</el-button>
  </section>
</template>

<style scoped>
.today {
  padding-bottom: 10px;
}
ul {
  list-style: none;
  margin: 6px 0 0;
  padding: 0;
}
li {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 6px 18px;
  padding: 6px 0;
  border-top: 1px solid var(--line);
}
li p {
  margin: 0;
}
b {
  display: block;
}
.el-button {
  text-decoration: none;
  min-width: 12rem;
  flex: none;
}
.today > .el-button {
  min-width: 0;
}
@media (max-width: 640px) {
  li {
    flex-direction: column;
    align-items: stretch;
  }
}
</style>
