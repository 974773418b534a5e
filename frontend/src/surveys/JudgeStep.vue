<script setup lang="ts">
import { computed, ref } from 'vue'
import { useQueryClient } from '@tanstack/vue-query'
import { useApiQuery } from '@/api/ask'
import type { Schemas } from '@/api/client'
import { useMap, usePlan, USUAL } from '@/api/shown'
import VerdictBadge from '@/charts/VerdictBadge.vue'
import { mm } from '@/shell/format'
import WeakenedBy from '@/probing/WeakenedBy.vue'
import RoundChoice from '@/visits/RoundChoice.vue'
import { goTo } from '@/visits/steps'
import LeftPanel from '@/compensation/LeftPanel.vue'
import AsideList from './AsideList.vue'
import SurveyMap from './SurveyMap.vue'

const props = defineProps<{ visit: Schemas['VisitOut']; round: number }>()
defineEmits<{ round: [index: number] }>()
const survey = computed(() => props.visit.rounds[props.round]?.survey ?? null)
const review = computed(() => props.visit.rounds[props.round]?.review ?? null)
const { data } = useMap(() => survey.value?.id ?? null)
const screws = computed(() => props.visit.printer.screws.length > 0)
const { data: plan } = usePlan(
  () => survey.value?.id ?? null,
  ref(USUAL),
  () => screws.value && survey.value?.verdict !== 'open',
)
const detail = ref(false)
const { data: zone } = useApiQuery(
  '/api/surveys/{survey_id}/minimum-zone',
  () => (detail.value && survey.value ? { survey_id: survey.value.id } : null),
  { fixed: true },
)
const f = computed(() => data.value?.figures ?? null)
const client = useQueryClient()
const refresh = (): Promise<void> => client.invalidateQueries()
const next = computed(() => {
  const last = props.round === props.visit.rounds.length - 1
  // what the visit itself says comes next, but for readings on which only this page leads further
  if (last && props.visit.next && f.value?.verdict.level !== 'open')
    return { to: props.visit.next.name, text: goTo(props.visit.next.name, props.visit) }
  if (props.visit.rounds[props.round]?.moved) return { to: 'measure', text: 'Measure again' }
  if (f.value?.verdict.level === 'unsure') return { to: 'measure', text: 'Measure again' }
  if (f.value?.verdict.level === 'open')
    return screws.value
      ? { to: 'bench', text: 'Level at the bench' }
      : { to: 'measure', text: 'Lower until it drags' }
  if (f.value?.verdict.level === 'turn' && screws.value) return { to: 'level', text: 'Show me what to turn' }
  if (
    f.value?.verdict.level === 'turn' &&
    (props.visit.printer.pads.length || props.visit.printer.beam_screws > 0)
  )
    return { to: 'level', text: 'Show me how to level it' }
  if (
    f.value?.verdict.level === 'compensate' &&
    props.visit.printer.compensation === 'mesh' &&
    !props.visit.ended_at
  )
    return { to: 'compensate', text: 'Make a mesh' }
  return { to: 'finish', text: props.visit.ended_at ? 'How it ended' : 'Close this visit' }
})
</script>

<template>
  <section v-if="!survey" class="sheet stack">
    <h2>No map yet</h2>
    <p>The map needs readings.</p>
    <p><RouterLink :to="`/visits/${visit.id}/measure`">Put in readings</RouterLink></p>
  </section>
  <div v-else class="stack">
    <RoundChoice :rounds="visit.rounds" :round="round" @round="$emit('round', $event)" />
    <div class="worktable">
      <SurveyMap
        :key="survey.id"
        :survey="survey.id"
        :visit="visit.id"
        :can-plan="screws && f?.verdict.level !== 'open'"
        :quiet="f?.verdict.level !== 'turn'"
        :plan="plan ?? null"
      />
      <div class="stack">
        <WeakenedBy :said="visit.weaknesses.map" />
        <section v-if="f" class="sheet stack verdict comes-first" aria-label="Verdict">
          <VerdictBadge :level="f.verdict.level" :word="f.verdict.word" />
          <p class="say">{{ f.verdict.sentence }}</p>
          <RouterLink
            class="el-button el-button--primary el-button--large go"
            :to="`/visits/${visit.id}/${next.to}`"
            >{{ next.text }}</RouterLink
          >
          <p class="row">
            <RouterLink :to="`/visits/${visit.id}/first-layer`"
              >See the first layer before you print</RouterLink
            ><RouterLink :to="`/visits/${visit.id}/offset`">Z offset</RouterLink
            ><RouterLink v-if="visit.printer.compensation === 'mean'" :to="`/visits/${visit.id}/compensate`"
              >What its mean does to this bed</RouterLink
            >
          </p>
        </section>
        <div v-else class="sheet verdict comes-first waits"><WaitBox says="Judging the bed …" /></div>
        <AsideList
          v-if="data"
          :survey="survey.id"
          :readings="data.aside"
          :open="!visit.ended_at"
          @changed="refresh()"
        />
        <section v-if="review" class="sheet stack" aria-label="What the last turning did">
          <h3>What the last turning did</h3>
          <p>
            {{ mm(review.spread_before) }} before, {{ mm(review.spread_expected) }} expected,
            {{ mm(review.spread_after) }} measured.
          </p>
          <p
            v-for="one in review.findings"
            :key="one.kind"
            :class="['slack', 'reversed', 'unexplained', 'worse'].includes(one.kind) ? 'trouble' : ''"
          >
            {{ one.sentence }}
          </p>
        </section>
        <LeftPanel
          v-if="f && !['turn', 'open', 'unsure'].includes(f.verdict.level)"
          :survey="survey.id"
          :visit="visit"
          :open="round === visit.rounds.length - 1 && !visit.ended_at && !visit.rounds[round]?.moved"
        />
        <section v-if="f && f.at_least !== null" class="sheet" aria-label="Figures">
          <el-descriptions :column="1" border class="facts right">
            <el-descriptions-item
              ><template #label><TermHint term="spread">Highest to lowest</TermHint></template
              ><b>at least {{ mm(f.at_least) }}</b></el-descriptions-item
            >
          </el-descriptions>
          <ul v-if="survey.assumptions.length" class="small">
            <li v-for="one in survey.assumptions" :key="one">{{ one }}</li>
          </ul>
        </section>
        <section v-else-if="f" class="sheet" aria-label="Figures">
          <el-descriptions :column="1" border class="facts right">
            <el-descriptions-item
              ><template #label><TermHint term="spread">Highest to lowest</TermHint></template
              ><b>{{ mm(f.spread) }}</b></el-descriptions-item
            >
            <el-descriptions-item
              ><template #label>Without tilt <TermHint term="fltt">FLTt</TermHint></template
              >{{ mm(f.peak_to_valley) }}</el-descriptions-item
            >
            <el-descriptions-item
              ><template #label>Root mean square <TermHint term="fltq">FLTq</TermHint></template
              >{{ mm(f.rms) }}</el-descriptions-item
            >
            <el-descriptions-item v-if="f.tilt != null"
              ><template #label><TermHint term="tilt">Tilt of the whole bed</TermHint></template
              ><b>{{ mm(f.tilt) }} ± {{ mm(f.tilt_margin ?? 0) }}</b></el-descriptions-item
            >
            <el-descriptions-item label="Tilt, left to right">{{ mm(f.tilt_x, true) }}</el-descriptions-item>
            <el-descriptions-item label="Tilt, front to back">{{ mm(f.tilt_y, true) }}</el-descriptions-item>
            <el-descriptions-item
              ><template #label><TermHint term="shape">Shape</TermHint></template
              >{{ f.shape_sentence }}</el-descriptions-item
            >
          </el-descriptions>
          <CautionNote v-if="f.tilt_note" class="small">{{ f.tilt_note }}</CautionNote>
          <p v-if="f.noise_note" class="small quiet">{{ f.noise_note }}</p>
          <FoldPart title="More figures" @toggle="detail = $event">
            <el-descriptions :column="1" border class="facts right">
              <el-descriptions-item
                ><template #label>Peak <TermHint term="fltp">FLTp</TermHint></template
                >{{ mm(f.peak) }}</el-descriptions-item
              >
              <el-descriptions-item
                ><template #label>Valley <TermHint term="fltv">FLTv</TermHint></template
                >{{ mm(f.valley) }}</el-descriptions-item
              >
              <el-descriptions-item label="FLTt, minimum zone">{{
                zone ? mm(zone.peak_to_valley) : '…'
              }}</el-descriptions-item>
              <el-descriptions-item label="Bow along X (middle over edges)">{{
                mm(f.bow_x, true)
              }}</el-descriptions-item>
              <el-descriptions-item label="Bow along Y">{{ mm(f.bow_y, true) }}</el-descriptions-item>
              <el-descriptions-item label="Twist (one diagonal over the other)">{{
                mm(f.twist, true)
              }}</el-descriptions-item>
              <el-descriptions-item label="Not explained by these"
                >{{ mm(f.remainder_rms) }} RMS</el-descriptions-item
              >
            </el-descriptions>
            <ul v-if="survey.assumptions.length" class="small">
              <li v-for="one in survey.assumptions" :key="one">{{ one }}</li>
            </ul>
          </FoldPart>
        </section>
      </div>
    </div>
  </div>
</template>

<style scoped>
.waits {
  min-height: 246px;
}
.verdict {
  align-items: flex-start;
}
.say {
  font-size: 1.12rem;
}
.go {
  text-decoration: none;
}
</style>
