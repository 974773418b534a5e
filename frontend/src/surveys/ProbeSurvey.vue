<script setup lang="ts">
// Plan a survey for the probe and let the printer take it, watched touch by touch.
import { computed, ref, watch } from 'vue'
import { ask, useApiQuery } from '@/api/ask'
import { type Schemas } from '@/api/client'
import { useLatest } from '@/api/latest'
import HeightLegend from '@/bed/HeightLegend.vue'
import ReliefMap from '@/bed/ReliefMap.vue'
import AskDialog from '@/machine/AskDialog.vue'
import JobCard from '@/machine/JobCard.vue'
import { OVER, type JobWish } from '@/machine/jobs'
import { useVisitJob } from '@/probing/visitJob'
import type { Column } from '@/components/rows'
import { figure, parseNumber } from '@/shell/format'
import { usePreview } from './preview'

const props = defineProps<{ visit: Schemas['VisitOut'] }>()
const emit = defineEmits<{ type: [points: Schemas['XY'][]] }>()
const printer = computed(() => props.visit.printer)
const hasProbe = computed(() => printer.value.probe_kind !== 'none')
const columns = ref('5')
const rows = ref('5')
const inset = ref('15')
const plan = ref<Schemas['Pattern'] | null>(null)
const wanted = ref<JobWish | null>(null)
const { data: advice } = useApiQuery('/api/printers/{printer_id}/advice', () => ({
  printer_id: printer.value.id,
}))
const GRIDS: Column<Schemas['AdviceOut']['options'][number]>[] = [
  { key: 'grid', title: 'Grid', says: (o) => `${o.columns} × ${o.rows}` },
  {
    key: 'error',
    title: 'misses, mm',
    says: (o) => (o.error === null ? 'not known' : figure(o.error, false, 3)),
    right: true,
  },
  { key: 'minutes', title: 'min', says: (o) => o.minutes.toFixed(1), right: true },
  { key: 'take', title: '', right: true },
]
const { job, follow } = useVisitJob(props.visit, 'grid')
const dismissed = ref<number | null>(null)
// a probing whose survey was turned by, or followed by another, is over: what it showed stands on the map step
const past = computed(() => {
  const mine = props.visit.rounds.findIndex((r) => r.survey.id === job.value?.survey_id)
  return mine >= 0 && (mine < props.visit.rounds.length - 1 || props.visit.rounds[mine]!.moved)
})
const watched = computed(() =>
  job.value && !past.value && dismissed.value !== job.value.id ? job.value : null,
)
const running = computed(() => !!watched.value && !OVER.includes(watched.value.state))

const size = computed(() => [columns.value, rows.value, inset.value].map(parseNumber))
// what is on the screen counts, not the answer to an earlier question that came late
const asking = useLatest()
watch(
  size,
  async ([c, r, i]) => {
    asking.drop()
    if (c == null || r == null || i == null) return void (plan.value = null)
    const made = await asking.run(() =>
      ask('/api/printers/{printer_id}/pattern', {
        printer_id: printer.value.id,
        kind: 'grid',
        columns: Math.round(c),
        rows: Math.round(r),
        inset: i,
        by_probe: hasProbe.value,
      }),
    )
    if (made || asking.trouble) plan.value = made ?? null
  },
  { immediate: true },
)
const touches = computed(() => (watched.value ? [...watched.value.earlier, ...watched.value.touches] : []))
const body = computed<Schemas['PreviewIn'] | null>(() =>
  touches.value.length >= 3
    ? {
        points: touches.value.map((t) => ({ x: t.x, y: t.y, value: t.height })),
        values: 'height',
        unit: 'mm',
        flip_x: false,
        flip_y: false,
        serpentine: false,
        first_layer: props.visit.first_layer,
      }
    : null,
)
const { data: answer, error } = usePreview(printer.value.id, props.visit.id, body)
const shown = computed(() => (body.value && !error.value ? (answer.value?.preview ?? null) : null))
const spots = computed(() => {
  if (!watched.value) return plan.value?.points.map((p) => ({ x: p.x, y: p.y, text: '' })) ?? []
  const read = new Map(touches.value.map((t) => [`${t.x},${t.y}`, t]))
  const places = watched.value.points.length ? watched.value.points : touches.value
  let next = running.value
  return places.map(({ x, y }) => {
    const touch = read.get(`${x},${y}`)
    const current = !touch && next
    if (current) next = false
    return { x, y, text: touch ? figure(touch.height, true) : '', current }
  })
})
function take(option: Schemas['OptionOut']): void {
  columns.value = String(option.columns)
  rows.value = String(option.rows)
}
const begin = (): void => {
  const [c, r, i] = size.value
  wanted.value = {
    kind: 'grid',
    visit: props.visit.id,
    columns: Math.round(c!),
    rows: Math.round(r!),
    inset: i,
  }
}
</script>

<template>
  <div class="worktable even">
    <section class="sheet stack">
      <ReliefMap
        :bed="printer.bed"
        :relief="shown?.relief ?? null"
        :screws="printer.screws"
        :pads="printer.pads"
        :spots="spots"
        :outline="shown?.outline ?? []"
        :reach="hasProbe ? printer.probe_reach : null"
        :label="
          watched
            ? `${touches.length} of ${spots.length} places touched`
            : 'The bed from above, with the places to measure'
        "
      />
      <HeightLegend v-if="shown" :relief="shown.relief" beyond />
      <p v-else class="small quiet">
        {{
          hasProbe
            ? 'Dashed: what the probe reaches. Dots: the places it will touch, walked to and fro.'
            : 'Dots: the places to measure, walked to and fro.'
        }}
      </p>
    </section>
    <div class="stack">
      <section v-if="watched" class="sheet stack" aria-label="The probing">
        <JobCard :job="watched" @resume="wanted = { kind: 'grid', visit: visit.id, resume: $event }" />
        <RouterLink
          v-if="watched.state === 'done' && watched.survey_id"
          class="el-button el-button--primary el-button--large go"
          :to="`/visits/${visit.id}/judge`"
          >See the map</RouterLink
        >
        <p v-if="!running"><el-button @click="dismissed = watched.id">Begin another one</el-button></p>
      </section>
      <section v-if="!watched" class="sheet stack" aria-label="Plan a survey">
        <h2>Which places?</h2>
        <div class="three">
          <NumberField id="columns" v-model="columns" label="Columns" inputmode="numeric" />
          <NumberField id="rows" v-model="rows" label="Rows" inputmode="numeric" />
          <NumberField id="inset" v-model="inset" label="Inset" unit="mm" />
        </div>
        <p v-if="plan">
          {{ plan.points.length }} places, about
          {{
            plan.minutes < 1
              ? `${Math.max(5, Math.round(plan.minutes * 12) * 5)} s`
              : `${Math.round(plan.minutes)} min`
          }}.
        </p>
        <TroubleNote v-if="asking.trouble">{{ asking.trouble }}</TroubleNote>
        <div class="row">
          <el-button
            v-if="printer.port && hasProbe"
            type="primary"
            size="large"
            :disabled="!plan || asking.busy || running"
            @click="begin"
            >Let the printer probe</el-button
          >
          <el-button
            :type="printer.port && hasProbe ? undefined : 'primary'"
            size="large"
            :disabled="!plan || asking.busy"
            @click="plan && emit('type', plan.points)"
            >Type these myself</el-button
          >
        </div>
        <p v-if="hasProbe && !printer.port" class="small quiet">
          No line is set up: the printer’s own screen or console probes, and you type or paste.
          <RouterLink :to="`/printers/${printer.id}/edit`">Set a line up</RouterLink>
        </p>
      </section>
      <section v-if="advice && !watched" class="sheet stack" aria-label="Advice">
        <h2>How many does this bed need?</h2>
        <p>{{ advice.sentence }}</p>
        <DataTable
          still
          :rows="advice.options"
          :columns="GRIDS"
          :row-key="(o) => `${o.columns}x${o.rows}`"
          name="grids"
          :row-class="(o) => (o.advised ? 'advised' : '')"
        >
          <template #take="{ row }"
            ><el-button size="small" :aria-label="`Take ${row.columns} × ${row.rows}`" @click="take(row)">{{
              row.advised ? 'Advised' : 'Take'
            }}</el-button></template
          >
        </DataTable>
        <p class="small quiet">
          {{
            advice.surveys
              ? `From the last ${advice.surveys === 1 ? 'survey' : `${advice.surveys} surveys`} of this bed, ` +
                'tilt taken out: each reading foretold by a mesh that did not know it (root mean square).'
              : 'Common practice, until this bed is known.'
          }}
        </p>
      </section>
    </div>
    <AskDialog :printer="printer.id" :wanted="wanted" @close="wanted = null" @begun="follow($event.id)" />
  </div>
</template>

<style scoped>
.three {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 10px;
}
:deep(.advised) {
  color: var(--good);
}
.go {
  text-decoration: none;
  align-self: flex-start;
}
</style>
