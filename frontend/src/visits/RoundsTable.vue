<script setup lang="ts">
import { computed, reactive } from 'vue'
import { takeAway } from '@/api/change'
import type { Schemas } from '@/api/client'
import HeightLegend from '@/bed/HeightLegend.vue'
import VerdictBadge from '@/charts/VerdictBadge.vue'
import { asTime, count, mm, spreadOf } from '@/shell/format'
import { DONE } from '@/tramming/turned'
import RoundRelief from './RoundRelief.vue'

const props = defineProps<{ visit: Schemas['VisitOut'] }>()
const widest = computed(() => Math.max(...props.visit.rounds.map((r) => r.survey.spread), 0.001))
// all rounds in the tints of the widest, so that the landscape is seen to flatten
const reliefs = reactive(new Map<number, Schemas['Relief']>())
const steepest = computed(
  () =>
    props.visit.rounds
      .map((r) => reliefs.get(r.survey.id))
      .filter((r) => !!r)
      .toSorted((a, b) => b.limit - a.limit)[0] ?? null,
)
const takeBack = (id: number): Promise<void> =>
  takeAway('/api/turnings/{turning_id}', { turning_id: id }, 'The turning was taken back from the records.')
const takeOff = (id: number): Promise<void> =>
  takeAway('/api/adjustments/{adjustment_id}', { adjustment_id: id }, 'Taken back from the records.')
const dropSurvey = (id: number): Promise<void> =>
  takeAway('/api/surveys/{survey_id}', { survey_id: id }, 'The survey was deleted.', ['/api/surveys/'])
const BAD = ['slack', 'reversed', 'unexplained', 'worse']
</script>

<template>
  <section v-if="visit.rounds.length" class="stack" aria-label="Rounds side by side">
    <h2><TermHint term="round">Rounds side by side</TermHint></h2>
    <ol class="rounds">
      <li v-for="(one, i) in visit.rounds" :key="one.survey.id" class="sheet stack">
        <div class="row spread">
          <h3>Round {{ i + 1 }}</h3>
          <span class="quiet small"
            >{{ asTime(one.survey.taken_at) }}, {{ count(one.survey.count, 'reading') }}</span
          >
        </div>
        <RoundRelief
          :survey="one.survey.id"
          :screws="visit.printer.screws"
          :label="`Round ${i + 1}: ${spreadOf(one.survey)} from highest to lowest`"
          :limit="steepest?.limit ?? 0"
          @relief="reliefs.set(one.survey.id, $event)"
        />
        <div>
          <p class="row spread">
            <b class="big number">{{ spreadOf(one.survey) }}</b><VerdictBadge
              :level="one.survey.verdict"
              :word="one.survey.word"
            />
          </p>
          <svg class="bar" viewBox="0 0 100 6" preserveAspectRatio="none" aria-hidden="true">
            <rect width="100" height="6" fill="var(--sheet-2)" />
            <rect :width="(100 * one.survey.spread) / widest" height="6" fill="var(--accent)" />
          </svg>
          <p v-if="one.survey.verdict !== 'open'" class="small quiet">
            without tilt {{ mm(one.survey.peak_to_valley) }} (FLTt), RMS {{ mm(one.survey.rms) }}
          </p>
        </div>
        <div v-if="one.review" class="stack">
          <p class="small">
            Expected {{ mm(one.review.spread_expected) }}, measured {{ mm(one.review.spread_after) }}.
          </p>
          <p
            v-for="finding in one.review.findings"
            :key="finding.kind"
            :class="BAD.includes(finding.kind) ? 'trouble' : ''"
          >
            {{ finding.sentence }}
          </p>
        </div>
        <div v-if="one.turning" class="turned">
          <b>Then turned</b>
          <ul>
            <li v-for="screw in one.turning.screws" :key="screw.name">
              {{ screw.name }}: {{ DONE[screw.action]
              }}{{ screw.action === 'leave' ? '' : ` ${screw.figures} turn` }}
            </li>
          </ul>
          <p v-if="one.turning.note" class="small">{{ one.turning.note }}</p>
          <el-button
            v-if="!visit.ended_at && i === visit.rounds.length - 1"
            size="small"
            @click="takeBack(one.turning.id)"
            >Take this back</el-button
          >
        </div>
        <div v-for="a in one.adjustments" :key="a.id" class="turned">
          <b>{{ a.title }}</b>
          <p class="small">{{ a.detail }}</p>
          <el-button
            v-if="!visit.ended_at && i === visit.rounds.length - 1"
            size="small"
            @click="takeOff(a.id)"
            >Take this back</el-button
          >
        </div>
        <div class="row small last">
          <a :href="`/api/surveys/${one.survey.id}/readings.csv`" download>Readings as CSV</a>
          <el-button
            v-if="!visit.ended_at && !one.turning && !one.adjustments.length"
            text
            size="small"
            @click="dropSurvey(one.survey.id)"
            >Delete this survey</el-button
          >
        </div>
      </li>
    </ol>
    <HeightLegend v-if="steepest" :relief="steepest" />
  </section>
</template>

<style scoped>
.rounds {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(100%, 280px), 1fr));
  gap: 16px;
}
.rounds ul {
  margin: 4px 0;
  padding-left: 20px;
}
.big {
  font-family: var(--head);
  font-size: 1.5rem;
}
.bar {
  width: 100%;
  height: 8px;
  display: block;
  margin: 6px 0;
  border-radius: 4px;
}
.turned {
  border-top: 1px dashed var(--line-2);
  padding-top: 8px;
}
.last {
  margin-top: auto;
}
</style>
