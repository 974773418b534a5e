<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { computed, ref } from 'vue'
import { later } from '@/components/later'
import { sentence, type Schemas } from '@/api/client'
import SoakCurve from '@/charts/SoakCurve.vue'
import AskDialog from '@/machine/AskDialog.vue'
import JobCard from '@/machine/JobCard.vue'
import { OVER, type JobWish } from '@/machine/jobs'
import { mm, parseNumber } from '@/shell/format'
import SeriesEntry from './SeriesEntry.vue'
import TestList from './TestList.vue'
import { emptySeries, newest, useSeries, useStoreTest, useTestPreview, type TestData } from './tests'
import { useVisitJob } from './visitJob'
import WeakenedBy from './WeakenedBy.vue'

const MovedBetween = later(() => import('./MovedBetween.vue'))
const props = defineProps<{ visit: Schemas['VisitOut'] }>()
const printer = computed(() => props.visit.printer)
const hasLine = computed(() => printer.value.port !== '' && !props.visit.ended_at)
const canTouch = computed(() => hasLine.value && printer.value.probe_kind !== 'none')
const draft = useSeries(props.visit.id, 'soak')
const key = computed({ get: () => draft.value.key, set: (value) => (draft.value.key = value) })
const shown = ref<number | null>(null)
const trouble = ref('')
const every = ref('30')
const places = ref(1)
const wanted = ref<JobWish | null>(null)
const { job, follow } = useVisitJob(props.visit, 'soak')
const { job: heating, follow: followHeat } = useVisitJob(props.visit, 'heat')
const running = computed(() => (job.value && !OVER.includes(job.value.state) ? job.value : null))
const typed = computed(() => ({
  heights: draft.value.texts.map((t) => parseNumber(t) ?? 0),
  times: [...draft.value.times],
}))
const stored = computed(
  () =>
    props.visit.tests.find((t) => t.id === shown.value) ??
    (typed.value.heights.length ? null : newest(props.visit, 'soak')),
)
const series = computed(() => {
  if (running.value)
    return {
      heights: running.value.touches.map((t) => t.height),
      times: running.value.touches.map((t) => t.after),
    }
  return stored.value && !typed.value.heights.length ? stored.value : typed.value
})
const body = computed<TestData | null>(() => {
  const now = running.value ? series.value : typed.value
  if (now.heights.length < 2) return null
  // places that are read in turn are judged against each other
  const names = running.value?.touches.map((t) => `${t.x},${t.y}`) ?? []
  const spots = [...new Set(names)]
  const turns =
    spots.length > 1
      ? {
          spots: spots.map((name) => {
            const [x, y] = name.split(',').map(Number) as [number, number]
            return { x, y }
          }),
          at: names.map((name) => spots.indexOf(name)),
        }
      : {}
  return { kind: 'soak', heights: now.heights, times: now.times, ...turns }
})
const { data: preview, error } = useTestPreview(() => printer.value.id, body)
const result = computed<Schemas['TestResult'] | null>(() =>
  body.value ? (preview.value?.result ?? null) : stored.value,
)
const { sending } = useStoreTest(() => props.visit.id, key)

async function save(): Promise<void> {
  const test = await sending.submit({ test: { kind: 'soak', ...typed.value } })
  if (!test) return
  draft.value = emptySeries()
  shown.value = test.id
}
function show(id: number): void {
  shown.value = id
  draft.value = emptySeries()
}

const goals = computed(() =>
  [
    props.visit.bed_temperature === null ? '' : `bed to ${props.visit.bed_temperature} °C`,
    props.visit.nozzle_temperature === null ? '' : `nozzle to ${props.visit.nozzle_temperature} °C`,
  ]
    .filter(Boolean)
    .join(', '),
)
// the timer
const now = ref(Date.now())
useIntervalFn(() => (now.value = Date.now()), 1000)
const elapsed = computed(() =>
  draft.value.began === null ? null : Math.max(0, Math.floor((now.value - draft.value.began) / 1000)),
)
const clock = computed(() =>
  elapsed.value === null
    ? '0:00'
    : `${Math.floor(elapsed.value / 60)}:${String(elapsed.value % 60).padStart(2, '0')}`,
)
</script>
<template>
  <div class="worktable">
    <div class="stack">
      <section class="sheet stack" aria-label="The soak curve">
        <template v-if="result">
          <p class="verdict" :class="result.level">
            <span aria-hidden="true">{{ result.level === 'steady' ? '●' : '▲' }}</span> {{ result.word }}
          </p>
          <p class="say" aria-live="polite">{{ result.sentences[0] }}</p>
        </template>
        <template v-else>
          <h2><TermHint term="soak">Is the bed steady yet?</TermHint></h2>
          <p>
            Bed and nozzle at printing temperature, then read the same place every half minute. A metal plate
            moves as it warms through; what you measure before it stands still is wrong a few minutes later.
          </p>
          <p v-if="preview?.waiting && body" class="quiet">{{ preview.waiting }}</p>
        </template>
        <SoakCurve
          v-if="series.heights.length"
          :times="result?.around?.times ?? series.times"
          :heights="result?.around?.heights ?? series.heights"
          :result="result?.soak ?? null"
        />
        <p v-if="result?.around" class="small quiet">
          Of {{ result.around.places }} places in turn the one that moves most against the others: x
          {{ result.around.x.toFixed(0) }}, y {{ result.around.y.toFixed(0) }} mm.
        </p>
        <p v-if="result?.soak" class="small quiet">
          Dots: readings. Line: the curve fitted through them. In the next five minutes it moves
          {{ mm(result.soak.to_go, true, 3) }} ± {{ mm(result.soak.to_go_margin, false, 3) }}; it keeps within
          {{ mm(result.soak.steady) }} with a chance of
          {{ Math.min(99, Math.max(1, Math.round(100 * result.soak.chance))) }} %.
        </p>
      </section>
      <TestList :visit="visit" kind="soak" :shown="stored?.id ?? null" @show="show" />
      <MovedBetween :visit="visit" />
    </div>
    <div class="stack">
      <WeakenedBy :said="visit.weaknesses.warm" />
      <section v-if="hasLine" class="sheet stack" aria-label="By the printer">
        <h2>Let the printer do it</h2>
        <div class="row">
          <el-button
            size="large"
            :disabled="!!running || goals === ''"
            @click="
              wanted = {
                kind: 'heat',
                visit: visit.id,
                bed: visit.bed_temperature,
                nozzle: visit.nozzle_temperature,
              }
            "
          >
            {{ goals ? `Heat ${goals}` : 'Heat' }}
          </el-button>
        </div>
        <p v-if="visit.bed_temperature === null && visit.nozzle_temperature === null" class="small quiet">
          Say in the setup bar how hot they are to become.
        </p>
        <JobCard v-if="heating && (!job || heating.id > job.id)" :job="heating" />
        <el-form
          v-if="canTouch"
          class="row"
          @submit.prevent="
            wanted = { kind: 'soak', visit: visit.id, every: parseNumber(every) ?? 30, places }
          "
        >
          <label for="every">Read every</label>
          <el-input id="every" v-model="every" class="short" inputmode="numeric" /> s
          <el-radio-group v-model="places" aria-label="Where">
            <el-radio-button :value="1">one place</el-radio-button
            ><el-radio-button :value="5">five in turn</el-radio-button>
          </el-radio-group>
          <el-button type="primary" size="large" native-type="submit" :disabled="!!running"
            >Watch until it is steady</el-button
          >
        </el-form>
        <JobCard v-if="job" :job="job" />
      </section>
      <section v-if="!visit.ended_at" class="sheet stack" aria-label="By hand">
        <div class="row spread">
          <h2>{{ canTouch ? 'Or type your readings' : 'Type your readings' }}</h2>
          <span class="clock number" role="timer" aria-label="Time since the first reading">{{ clock }}</span>
        </div>
        <SeriesEntry v-model="draft" timed :most="500" what="Reading" />
        <TroubleNote v-if="error && body">{{ sentence(error) }}</TroubleNote>
        <TroubleNote v-if="trouble">{{ trouble }} Nothing you typed is lost.</TroubleNote>
        <div class="row">
          <el-button
            type="primary"
            size="large"
            :disabled="typed.heights.length < 4"
            :loading="sending.busy"
            @click="save"
            >Store this warm-up</el-button
          >
          <el-button v-if="typed.heights.length" @click="draft = emptySeries()">Begin again</el-button>
        </div>
      </section>
      <CautionNote>
        The nozzle gets hot enough to burn at once, the bed after a second. Stay with it while it heats, and
        leave its protections on.
      </CautionNote>
      <p class="small"><RouterLink :to="`/visits/${visit.id}/trust`">On to the probe</RouterLink></p>
    </div>
    <AskDialog
      :printer="printer.id"
      :wanted="wanted"
      @close="wanted = null"
      @begun="$event.kind === 'heat' ? followHeat($event.id) : follow($event.id)"
    />
  </div>
</template>

<style scoped>
.verdict {
  font-family: var(--head);
  font-size: 1.5rem;
  font-weight: 700;
  color: var(--act);
}
.verdict.steady {
  color: var(--good);
}
.say {
  font-size: 1.12rem;
}
.short {
  width: 5em;
}
.clock {
  font-family: var(--head);
  font-size: 1.6rem;
  font-weight: 700;
}
</style>
