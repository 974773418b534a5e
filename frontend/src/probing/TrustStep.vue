<script setup lang="ts">
import { computed, ref } from 'vue'
import { sentence, type Schemas } from '@/api/client'
import RepeatStrip from '@/charts/RepeatStrip.vue'
import AskDialog from '@/machine/AskDialog.vue'
import JobCard from '@/machine/JobCard.vue'
import { OVER, type JobWish } from '@/machine/jobs'
import { mm, parseNumber } from '@/shell/format'
import SeriesEntry from './SeriesEntry.vue'
import TestList from './TestList.vue'
import { emptySeries, newest, useSeries, useStoreTest, useTestPreview, type TestData } from './tests'
import { useVisitJob } from './visitJob'
import WeakenedBy from './WeakenedBy.vue'

const props = defineProps<{ visit: Schemas['VisitOut'] }>()
const printer = computed(() => props.visit.printer)
const canTalk = computed(
  () => printer.value.port !== '' && printer.value.probe_kind !== 'none' && !props.visit.ended_at,
)
const draft = useSeries(props.visit.id, 'repeatability')
const key = computed({ get: () => draft.value.key, set: (value) => (draft.value.key = value) })
const shown = ref<number | null>(null)
const trouble = ref('')
const count = ref('10')
const wanted = ref<JobWish | null>(null)
const { job, follow } = useVisitJob(props.visit, 'repeatability')
const live = computed(() =>
  job.value && !OVER.includes(job.value.state) ? job.value.touches.map((t) => t.height) : null,
)
const typed = computed(() => draft.value.texts.map((t) => parseNumber(t) ?? 0))
const stored = computed(
  () =>
    props.visit.tests.find((t) => t.id === shown.value) ??
    (typed.value.length ? null : newest(props.visit, 'repeatability')),
)
const heights = computed(
  () => live.value ?? (stored.value && !typed.value.length ? stored.value.heights : typed.value),
)
const body = computed<TestData | null>(() =>
  (live.value ?? typed.value).length ? { kind: 'repeatability', heights: live.value ?? typed.value } : null,
)
const { data: preview, error } = useTestPreview(() => printer.value.id, body)
const result = computed<Schemas['TestResult'] | null>(() =>
  body.value ? (preview.value?.result ?? null) : stored.value,
)
const { sending } = useStoreTest(() => props.visit.id, key)

async function save(): Promise<void> {
  const test = await sending.submit({ test: { kind: 'repeatability', heights: typed.value } })
  if (!test) return
  draft.value = emptySeries()
  shown.value = test.id
}
function show(id: number): void {
  shown.value = id
  draft.value = emptySeries()
}
const SHAPES: Record<string, string> = { good: '●', usable: '◆', poor: '▲' }
</script>

<template>
  <!-- eslint-disable vue/no-restricted-html-elements --
  figures of one test, each with a head of its own and what bounds it -->
  <div class="worktable">
    <div class="stack">
      <section class="sheet stack" aria-label="The touches">
        <template v-if="result?.repeatability">
          <p class="verdict" :class="result.level">
            <span aria-hidden="true">{{ SHAPES[result.level] }}</span> {{ result.word }}
          </p>
          <p v-for="(one, i) in result.sentences" :key="one" :class="{ say: i < 2 }">{{ one }}</p>
        </template>
        <template v-else>
          <h2>How far does a reading repeat?</h2>
          <p>
            Touch the same place ten times or more. What the touches differ by is what no correction can beat.
          </p>
          <p v-if="preview?.waiting && body" class="quiet">{{ preview.waiting }}</p>
        </template>
        <RepeatStrip v-if="heights.length" :heights="heights" :result="result?.repeatability ?? null" />
        <table v-if="result?.repeatability" class="plain-table">
          <tbody>
            <tr>
              <th scope="row"><TermHint term="repeatability">Range</TermHint></th>
              <td class="right">
                <b>{{ mm(result.repeatability.range, false, 3) }}</b>
              </td>
              <td class="small quiet">
                {{ mm(result.repeatability.minimum, true, 3) }} to
                {{ mm(result.repeatability.maximum, true, 3) }}
              </td>
            </tr>
            <tr>
              <th scope="row"><TermHint term="sd">Standard deviation</TermHint></th>
              <td class="right">
                <b>{{ mm(result.repeatability.sd, false, 3) }}</b>
              </td>
              <td class="small quiet">
                95 %: {{ mm(result.repeatability.sd_low, false, 3) }} to
                {{ mm(result.repeatability.sd_high, false, 3) }}
              </td>
            </tr>
            <tr>
              <th scope="row">Mean</th>
              <td class="right">{{ mm(result.repeatability.mean, true, 3) }}</td>
              <td></td>
            </tr>
            <tr>
              <th scope="row">Drift a {{ result.repeatability.drift_per }}</th>
              <td class="right">{{ mm(result.repeatability.drift, true, 4) }}</td>
              <td class="small quiet">
                95 %: {{ mm(result.repeatability.drift_low, true, 4) }} to
                {{ mm(result.repeatability.drift_high, true, 4)
                }}{{ result.repeatability.drifting ? '' : ', no drift that matters' }}
              </td>
            </tr>
            <tr>
              <th scope="row"><TermHint term="grubbs">Left out</TermHint></th>
              <td class="right">
                {{
                  result.repeatability.aside.length
                    ? result.repeatability.aside.map((i) => i + 1).join(', ')
                    : 'none'
                }}
              </td>
              <td class="small quiet">touches that stand out beyond chance</td>
            </tr>
            <tr v-if="result.repeatability.step">
              <th scope="row">Smallest step</th>
              <td class="right">{{ mm(result.repeatability.step, false, 4) }}</td>
              <td></td>
            </tr>
            <tr>
              <th scope="row">Plans take</th>
              <td class="right">{{ mm(result.repeatability.noise, false, 3) }}</td>
              <td class="small quiet">
                for one reading, standard deviation; without drift and what stands out
              </td>
            </tr>
          </tbody>
        </table>
      </section>
      <TestList :visit="visit" kind="repeatability" :shown="stored?.id ?? null" @show="show" />
    </div>
    <div class="stack">
      <WeakenedBy :said="visit.weaknesses.trust" />
      <section v-if="canTalk" class="sheet stack" aria-label="By the printer">
        <h2>Let the printer touch</h2>
        <el-form
          class="row"
          @submit.prevent="
            wanted = { kind: 'repeatability', visit: visit.id, count: Math.round(parseNumber(count) ?? 10) }
          "
        >
          <label for="touches">Touches</label>
          <el-input id="touches" v-model="count" class="short" inputmode="numeric" />
          <el-button type="primary" size="large" native-type="submit" :disabled="!!live"
            >Touch in the middle</el-button
          >
        </el-form>
        <JobCard v-if="job" :job="job" />
        <p class="small">
          <RouterLink :to="`/printers/${printer.id}/machine`">Heat, home, park: at the line</RouterLink>
        </p>
      </section>
      <section v-if="!visit.ended_at" class="sheet stack" aria-label="By hand">
        <h2>{{ canTalk ? 'Or type what it read' : 'Type what it read' }}</h2>
        <SeriesEntry v-model="draft" :timed="false" :most="100" what="Touch" />
        <TroubleNote v-if="error && body">{{ sentence(error) }}</TroubleNote>
        <TroubleNote v-if="trouble">{{ trouble }} Nothing you typed is lost.</TroubleNote>
        <div class="row">
          <el-button
            type="primary"
            size="large"
            :disabled="typed.length < 3"
            :loading="sending.busy"
            @click="save"
            >Store this test</el-button
          >
          <el-button v-if="typed.length" @click="draft = emptySeries()">Begin again</el-button>
        </div>
      </section>
      <CautionNote>
        Keep a hand near the power switch at the first touches after a repair. The head comes down by itself.
      </CautionNote>
      <p class="small"><RouterLink :to="`/visits/${visit.id}/measure`">On to measuring</RouterLink></p>
    </div>
    <AskDialog :printer="printer.id" :wanted="wanted" @close="wanted = null" @begun="follow($event.id)" />
  </div>
</template>

<style scoped>
.verdict {
  font-family: var(--head);
  font-size: 1.5rem;
  font-weight: 700;
}
.verdict.good {
  color: var(--good);
}
.verdict.usable {
  color: var(--mild);
}
.verdict.poor {
  color: var(--bad);
}
.say {
  font-size: 1.12rem;
}
.right {
  white-space: nowrap;
}
.short {
  width: 5em;
}
</style>
