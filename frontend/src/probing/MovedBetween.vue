<script setup lang="ts">
// Two surveys of a visit beside each other, cold and hot: where the bed moved.
import { computed, ref } from 'vue'
import { useApiQuery } from '@/api/ask'
import { sentence, type Schemas } from '@/api/client'
import HeightLegend from '@/bed/HeightLegend.vue'
import ReliefMap from '@/bed/ReliefMap.vue'
import { asTime, figure } from '@/shell/format'

const props = defineProps<{ visit: Schemas['VisitOut'] }>()
const printer = computed(() => props.visit.printer)
const surveys = computed(() => props.visit.rounds.map((r) => r.survey))
const before = ref<number | null>(null)
const after = ref<number | null>(null)
const label = (s: Schemas['SurveyOut']): string =>
  `${asTime(s.taken_at)}, ${s.count} readings` +
  (s.bed_temperature === null ? '' : `, bed ${s.bed_temperature.toFixed(0)} °C`)
const { data: movement, error: unlike } = useApiQuery(
  '/api/surveys/{survey_id}/movement',
  () =>
    before.value === null || after.value === null || before.value === after.value
      ? null
      : { survey_id: after.value, before: before.value },
  { once: true },
)
const spots = computed(
  () =>
    movement.value?.x.map((x, i) => ({
      x,
      y: movement.value!.y[i]!,
      text: figure(movement.value!.moved[i]! - movement.value!.relief.datum, true),
    })) ?? [],
)
</script>

<template>
  <section v-if="surveys.length > 1" class="sheet stack" aria-label="Cold against hot">
    <h2>Where did the bed move?</h2>
    <p class="quiet small">
      Compare two surveys, cold and hot for instance. Nothing may have been turned in between.
    </p>
    <div class="pair">
      <ChoiceField id="cold" v-model="before" label="Before">
        <el-option v-for="s in surveys" :key="s.id" :value="s.id" :label="label(s)" />
      </ChoiceField>
      <ChoiceField id="hot" v-model="after" label="After">
        <el-option v-for="s in surveys" :key="s.id" :value="s.id" :label="label(s)" />
      </ChoiceField>
    </div>
    <TroubleNote v-if="unlike && before !== after">{{ sentence(unlike) }}</TroubleNote>
    <template v-if="movement && before !== after">
      <p class="say">{{ movement.sentence }}</p>
      <ReliefMap
        :bed="movement.bed"
        :relief="movement.relief"
        :screws="printer.screws"
        :spots="spots"
        :outline="movement.outline"
        :label="`Movement against the mean. ${movement.sentence}`"
      />
      <HeightLegend :relief="movement.relief" />
    </template>
  </section>
</template>

<style scoped>
.say {
  font-size: 1.12rem;
}
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}
</style>
