<script setup lang="ts">
// The map of a stored survey with its stages, its legend and its ways out.
import { computed, ref, watch } from 'vue'
import { sentence, type Schemas } from '@/api/client'
import { useEdges, useMap } from '@/api/shown'
import { tell } from '@/shell/undo'
import HeightLegend from '@/bed/HeightLegend.vue'
import { palette } from '@/bed/palette'
import ReliefMap from '@/bed/ReliefMap.vue'
import { savePng, saveSvg } from '@/charts/save'
import { drawn, WAYS } from './edges'
import HeightTable from './HeightTable.vue'
import { figure, mm } from '@/shell/format'

type Stage = 'measured' | 'level' | 'plan'
const props = withDefaults(
  defineProps<{
    survey: number
    visit?: number | null
    plan?: Schemas['PlanOut'] | null
    first?: Stage
    canPlan?: boolean
    quiet?: boolean
  }>(),
  { visit: null, plan: null, first: 'measured', canPlan: false, quiet: false },
)
const emit = defineEmits<{ stage: [stage: Stage] }>()
const stage = ref<Stage>(props.first)
watch(stage, (value) => emit('stage', value))
watch(
  () => props.canPlan,
  (can) => !can && stage.value === 'plan' && (stage.value = 'measured'),
)
const { data, error, isPending } = useMap(() => props.survey)
const map = ref<InstanceType<typeof ReliefMap> | null>(null)

const relief = computed(() => {
  if (!data.value) return null
  if (stage.value === 'level') return data.value.level_relief
  if (stage.value === 'plan' && props.plan) return props.plan.relief
  return data.value.measured_relief
})
const heights = computed(() => {
  if (!data.value) return []
  if (stage.value === 'level') return data.value.level
  if (stage.value === 'plan' && props.plan) return props.plan.heights
  return data.value.measured
})
// before and after the plan in the same tints, so that the bed is seen to come level
const limit = computed(() =>
  stage.value === 'plan' && data.value && relief.value
    ? Math.max(data.value.measured_relief.limit, relief.value.limit)
    : 0,
)
const spots = computed(() =>
  heights.value.map((h, i) => ({
    x: data.value!.x[i]!,
    y: data.value!.y[i]!,
    text: data.value!.figures.open[i] ? '?' : figure(h - relief.value!.datum, true),
  })),
)
const notes = computed(() =>
  stage.value === 'plan' || !props.plan || props.quiet
    ? []
    : props.plan.turns.map((turn) => ({
        name: turn.name,
        text: turn.action === 'leave' ? 'leave' : `${turn.action} ${turn.figures}`,
      })),
)
const WORDS: Record<Stage, string> = {
  measured: 'As measured',
  level: 'Tilt taken out',
  plan: 'After this plan',
}
const label = computed(
  () =>
    `${WORDS[stage.value]}: ${spots.value.length} readings, from ${mm(relief.value?.low ?? 0, true)} ` +
    `to ${mm(relief.value?.high ?? 0, true)}. Arrow keys read any place.`,
)
// a straightedge knows no tilt: its lines enter the map where the tilt is out of the readings too
const { data: laid } = useEdges(
  () => props.visit,
  () => 'plate',
  () => stage.value === 'level',
)
const edges = computed(() => drawn(laid.value))
// SDF holds full grids only
const even = computed(() => {
  const [columns, rows] = [new Set(data.value?.x), new Set(data.value?.y)]
  return columns.size > 1 && rows.size > 1 && columns.size * rows.size === data.value?.x.length
})
async function save(kind: 'svg' | 'png'): Promise<void> {
  const svg = map.value?.svg
  if (!svg) return
  try {
    const readings = await fetch(`/api/surveys/${props.survey}/readings.json`).then((one) => one.text())
    if (kind === 'svg') saveSvg(svg, name.value, readings)
    else await savePng(svg, name.value, palette.value.ground, readings)
  } catch (e) {
    tell(sentence(e))
  }
}
const name = computed(() => `survey-${props.survey}-${stage.value}`)
</script>

<template>
  <section class="sheet stack" aria-label="Map">
    <div class="row spread">
      <el-radio-group v-model="stage" aria-label="Stage of the map">
        <el-radio-button value="measured">{{ WORDS.measured }}</el-radio-button>
        <el-radio-button v-if="data?.figures.at_least === null" value="level">{{
          WORDS.level
        }}</el-radio-button>
        <el-radio-button v-if="canPlan" value="plan">{{ WORDS.plan }}</el-radio-button>
      </el-radio-group>
      <div v-if="data" class="row small no-print ways">
        <span class="quiet">Save:</span>
        <el-button text size="small" @click="save('svg')">SVG</el-button>
        <el-button text size="small" @click="save('png')">PNG</el-button>
        <a :href="`/api/surveys/${survey}/readings.csv`" download>CSV</a>
        <a :href="`/api/surveys/${survey}/readings.json`" download>JSON</a>
        <template v-if="even">
          <a :href="`/api/surveys/${survey}/readings.sdf`" download title="ISO 25178-71, ASCII">SDF</a>
          <a :href="`/api/surveys/${survey}/readings.bsdf`" download title="ISO 25178-71, binary"
            >SDF binary</a
          >
        </template>
      </div>
    </div>
    <div v-if="error" class="trouble" role="alert">{{ sentence(error) }}</div>
    <WaitBox v-else-if="isPending" says="Drawing the map …" kind="map" />
    <template v-else-if="data && relief">
      <ReliefMap
        ref="map"
        :bed="data.bed"
        :relief="relief"
        :limit="limit"
        :screws="data.screws"
        :unknown="stage === 'plan' ? [] : data.unknown"
        :spots="spots"
        :outline="data.outline"
        :crossed="data.aside"
        :edges="stage === 'level' ? edges : []"
        :notes="notes"
        :label="label"
      />
      <HeightLegend :relief="relief" :limit="limit" beyond />
      <p v-for="one in stage === 'level' ? (laid?.lines ?? []) : []" :key="one.id" class="small">
        Straightedge {{ WAYS[one.direction] }}: {{ one.sentence }} {{ one.survey }}
      </p>
      <p v-if="data.aside.some((one) => !one.counts)" class="small quiet">
        Crossed out: readings that do not belong to this bed and count for nothing.
      </p>
      <p v-if="data.unknown.length" class="small quiet">
        Dark hatching: nobody knows. There paper said only which way, so the colour is a guess.
      </p>
      <CautionNote v-if="data.doubt" role="alert">{{ data.doubt }}</CautionNote>
      <HeightTable :map="data" :heights="heights" :datum="relief.datum" :stage="WORDS[stage]" />
    </template>
  </section>
</template>
