<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { call } from '@/api/ask'
import { send, takeAway, useSending } from '@/api/change'
import { sentence, type Schemas } from '@/api/client'
import { usePrinter, useStanding } from '@/api/shown'
import { attempt } from '@/shell/undo'
import VariationChart from '@/charts/VariationChart.vue'
import VerdictBadge from '@/charts/VerdictBadge.vue'
import { asDay, asTime, count, figure, mm } from '@/shell/format'
import LearnedKnobs from '@/tramming/LearnedKnobs.vue'
import AfterList from '@/visits/AfterList.vue'
import HappenedDialog from '@/visits/HappenedDialog.vue'
import DriftPanel from './DriftPanel.vue'
import StandingPanel from './StandingPanel.vue'
import { useTrail } from '@/shell/trail'

const route = useRoute()
const router = useRouter()
const id = computed(() => Number(route.params.id))
const { data, error, isPending } = usePrinter(id)
const search = ref('')
const happened = ref(false)
const { data: standing } = useStanding(id)
const visits = computed(() => {
  const words = search.value.toLowerCase().split(/\s+/).filter(Boolean)
  return (data.value?.visits ?? []).filter((v) => {
    const text = `${asDay(v.started_at)} ${v.word ?? ''} ${v.ended_at ? 'closed' : 'open'}`.toLowerCase()
    return words.every((word) => text.includes(word))
  })
})
const open = computed(() => data.value?.visits.find((v) => !v.ended_at) ?? null)

const SAID = {
  printed: 'One more print on it.',
  washed: 'Washed: prints and coats begin at 0.',
  coated: 'One more coat on it.',
} as const
const use = (name: string, action: Schemas['SurfaceUse']['action']): Promise<void> =>
  attempt(
    () => send('post', '/api/printers/{printer_id}/surfaces/use', { printer_id: id.value }, { name, action }),
    SAID[action],
  )
// addresses on this very machine can be followed
const note = computed(() => (data.value?.printer.note ?? '').split(/(http:\/\/127\.0\.0\.1:\d+)/))
const PROBES = {
  none: 'none',
  nozzle: 'the nozzle itself',
  retracting: 'retracting pin',
  inductive: 'inductive',
  capacitive: 'capacitive',
  switch: 'switch',
  strain: 'strain gauge',
} as const
const ZEROS = {
  probe: 'by its probe, at every homing',
  switch: 'by a Z switch on a post',
  knobs: 'by the knobs: the bed is raised to the tip',
} as const
const COMPENSATIONS = { none: 'none', mean: 'only the mean of its points', mesh: 'mesh' } as const
const starting = useSending({ aloud: true, patient: false })
async function begin(): Promise<void> {
  const visit = await starting.run(() =>
    call('post', '/api/printers/{printer_id}/visits', { printer_id: id.value }, {}),
  )
  if (visit) await router.push(`/visits/${visit.id}/sound`)
}
function tellVisit(visit: Schemas['VisitLine']): string {
  const parts = [
    count(visit.surveys, 'survey'),
    visit.turnings
      ? `turned ${visit.turnings === 1 ? 'once' : visit.turnings === 2 ? 'twice' : `${visit.turnings} times`}`
      : 'not turned',
  ]
  if (!visit.ended_at) parts.unshift('open')
  if (visit.first_spread !== null) {
    const same = visit.first_spread === visit.last_spread
    parts.push(same ? mm(visit.last_spread!) : `${mm(visit.first_spread)} → ${mm(visit.last_spread!)}`)
  }
  return parts.join(', ')
}
async function deletePrinter(): Promise<void> {
  const printer = data.value!.printer
  await router.push('/')
  await takeAway(
    '/api/printers/{printer_id}',
    { printer_id: printer.id },
    `${printer.name} was deleted with its visits.`,
    ['/api/printers/', '/api/visits/', '/api/surveys/'],
  )
}
const deleteVisit = (visit: number): Promise<void> =>
  takeAway('/api/visits/{visit_id}', { visit_id: visit }, 'The visit was deleted.')
useTrail(() => [{ name: data.value?.printer.name ?? 'Printer' }])
</script>

<template>
  <WaitBox v-if="isPending" says="Opening …" kind="page" />
  <div v-else-if="error" class="trouble" role="alert">{{ sentence(error) }}</div>
  <div v-else-if="data" class="stack">
    <div class="row spread">
      <h1>{{ data.printer.name }}</h1>
      <div class="row">
        <RouterLink v-if="open" class="el-button el-button--primary plain" :to="`/visits/${open.id}`"
          >Go on with the visit</RouterLink
        >
        <el-button :type="open ? undefined : 'primary'" :loading="starting.busy" @click="begin">{{
          open ? 'Start another' : 'Start a visit'
        }}</el-button>
        <RouterLink
          v-if="data.printer.port"
          class="el-button plain"
          :to="`/printers/${data.printer.id}/machine`"
          >At the line</RouterLink
        >
        <RouterLink class="el-button plain" :to="`/printers/${data.printer.id}/cases/new`"
          >Open a case</RouterLink
        >
        <RouterLink class="el-button plain" :to="`/printers/${data.printer.id}/edit`"
          >Change the set-up</RouterLink
        >
        <el-button @click="happened = true">Something happened</el-button>
        <el-button type="danger" plain @click="deletePrinter">Delete</el-button>
      </div>
    </div>
    <HappenedDialog v-model="happened" :printer="data.printer" :visit="open?.id ?? null" />
    <AfterList
      v-if="standing?.after"
      :printer="id"
      :line="!!data.printer.port"
      :visit="open?.id ?? null"
      :after="standing.after"
    />
    <div class="columns">
      <section class="sheet stack">
        <h2>Set-up</h2>
        <el-descriptions :column="1" border class="facts">
          <el-descriptions-item label="Printable area"
            >{{ data.printer.width }} × {{ data.printer.depth }} mm</el-descriptions-item
          >
          <el-descriptions-item label="Plate"
            >{{ data.printer.plate_width }} × {{ data.printer.plate_depth }} mm</el-descriptions-item
          >
          <el-descriptions-item label="Zero point">{{
            data.printer.origin === 'centre' ? 'in the middle' : 'front left'
          }}</el-descriptions-item>
          <el-descriptions-item label="Screws"
            ><template v-if="data.printer.screws.length"
              ><div v-for="s in data.printer.screws" :key="s.name">
                {{ s.name }}: {{ s.thread }}, {{ s.pitch }} mm a turn
              </div></template
            ><template v-else>{{
              data.printer.pads.length ? `none; the plate rests on ${data.printer.pads.length} pads` : 'none'
            }}</template></el-descriptions-item
          >
          <el-descriptions-item v-if="data.printer.screws.length" label="Knobs"
            >seen
            {{ data.printer.knob_view === 'behind' ? 'from above, through the bed' : 'from their own end' }},
            turned in steps of 1/{{ data.printer.divisions }}; tightening
            {{ data.printer.tightening_lowers ? 'lowers' : 'raises' }} the bed</el-descriptions-item
          >
          <el-descriptions-item label="First layer">{{ mm(data.printer.first_layer) }}</el-descriptions-item>
          <el-descriptions-item v-if="data.printer.probe_kind !== 'none'" label="Probe"
            >{{ PROBES[data.printer.probe_kind] }}, {{ figure(data.printer.probe_dx, true, 0) }} /
            {{ figure(data.printer.probe_dy, true, 0) }} mm from the nozzle</el-descriptions-item
          >
          <el-descriptions-item
            v-if="data.printer.compensation !== 'none' || data.printer.probe_kind !== 'none'"
            label="Compensation"
            >{{ COMPENSATIONS[data.printer.compensation] }}</el-descriptions-item
          >
          <el-descriptions-item v-if="data.printer.zero_kept" label="Z = 0 is kept">{{
            ZEROS[data.printer.zero_kept]
          }}</el-descriptions-item>
          <el-descriptions-item v-if="data.printer.beam_screws" label="Cross beam"
            >{{ data.printer.beam_screws === 2 ? 'two lead screws' : 'one lead screw' }},
            {{ data.printer.beam_lead }} mm a turn</el-descriptions-item
          >
          <el-descriptions-item label="Z offset"
            >{{ data.printer.closer_is }} is closer
            <CautionNote v-if="data.printer.offset_warning">{{
              data.printer.offset_warning
            }}</CautionNote></el-descriptions-item
          >
          <el-descriptions-item label="Probe repeats to">{{
            data.printer.repeatability
              ? `±${mm(data.printer.repeatability, false, 3)} (standard deviation)`
              : 'not known'
          }}</el-descriptions-item>
        </el-descriptions>
        <div v-if="data.printer.surfaces.length" class="stack">
          <h3>Surfaces</h3>
          <ul class="visits">
            <li v-for="s in data.printer.surfaces" :key="s.name" class="stack surface">
              <div class="row spread">
                <b>{{ s.name }}</b><span class="small quiet"
                  >{{ s.kind_name }}{{ s.thickness ? `, ${s.thickness} mm` : '' }}, {{ s.condition }}</span
                >
              </div>
              <div class="row spread small">
                <span
                  >{{ count(s.prints_since_wash, 'print') }} since washed{{
                    s.coats ? `, ${count(s.coats, 'coat')} of adhesive` : ''
                  }}</span
                >
                <span class="row">
                  <el-button
                    size="small"
                    :aria-label="`One more print on ${s.name}`"
                    @click="use(s.name, 'printed')"
                    >Printed</el-button
                  >
                  <el-button size="small" :aria-label="`${s.name} was washed`" @click="use(s.name, 'washed')"
                    >Washed</el-button
                  >
                  <el-button
                    size="small"
                    :aria-label="`One more coat on ${s.name}`"
                    @click="use(s.name, 'coated')"
                    >Coated</el-button
                  >
                </span>
              </div>
            </li>
          </ul>
        </div>
        <p v-if="data.printer.note">
          <template v-for="(part, i) in note" :key="i"
            ><a v-if="part.startsWith('http')" :href="part" target="_blank" rel="noreferrer">{{ part }}</a
            ><template v-else>{{ part }}</template></template
          >
        </p>
        <div v-if="data.visits.length" class="stack">
          <h3>From visit to visit</h3>
          <VariationChart :history="data.visits" :good="data.printer.good_spread" />
          <p class="small quiet">Ring: as found. Dot: as left. Millimetres from highest to lowest reading.</p>
        </div>
      </section>
      <div class="stack">
        <section class="sheet stack">
          <div class="row spread">
            <h2>Visits</h2>
            <div v-if="data.visits.length > 4">
              <label class="visually-hidden" for="find-visit">Find a visit</label>
              <el-input id="find-visit" v-model="search" type="search" placeholder="Find: date or verdict" />
            </div>
          </div>
          <p v-if="data.visits.length === 0" class="quiet">
            No visit yet. A visit is one time at this printer: measure, level, judge, close.
          </p>
          <p v-else-if="visits.length === 0" class="quiet">No visit fits.</p>
          <ul class="visits">
            <li v-for="visit in visits" :key="visit.id">
              <div class="row spread">
                <RouterLink :to="`/visits/${visit.id}`" class="when"
                  >{{ asDay(visit.started_at) }}, {{ asTime(visit.started_at) }}</RouterLink
                >
                <VerdictBadge v-if="visit.verdict" :level="visit.verdict" :word="visit.word!" />
              </div>
              <div class="row spread small">
                <span class="quiet">{{ tellVisit(visit) }}</span>
                <el-button
                  text
                  size="small"
                  :aria-label="`Delete the visit of ${asDay(visit.started_at)}`"
                  @click="deleteVisit(visit.id)"
                  >Delete</el-button
                >
              </div>
            </li>
          </ul>
        </section>
        <StandingPanel :printer="id" />
      </div>
    </div>
    <LearnedKnobs v-if="data.printer.screws.length" :key="`k${id}`" :printer="data.printer" />
    <DriftPanel :key="`d${id}`" :printer="id" />
  </div>
</template>

<style scoped>
.columns {
  display: grid;
  grid-template-columns: minmax(0, 5fr) minmax(0, 6fr);
  gap: 18px;
  align-items: start;
}
th {
  white-space: nowrap;
}
.visits {
  list-style: none;
  margin: 0;
  padding: 0;
}
.visits li {
  padding: 8px 0;
  border-top: 1px solid var(--line);
}
.surface {
  gap: 4px;
}
.when {
  font-weight: 600;
}
.plain {
  text-decoration: none;
}
@media (max-width: 800px) {
  .columns {
    grid-template-columns: 1fr;
  }
}
</style>
