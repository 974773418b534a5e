<script setup lang="ts">
// A mesh from this survey: what it leaves, how it fades, how the machine gets it, and whether the stored one still
// holds.
import type { Adjusted } from '@/levelling/adjusted'
import { computed, ref, watch } from 'vue'
import { useApiQuery } from '@/api/ask'
import { send, useSubmit } from '@/api/change'
import { sentence, type Schemas } from '@/api/client'
import { useMap } from '@/api/shown'
import HeightLegend from '@/bed/HeightLegend.vue'
import ReliefMap from '@/bed/ReliefMap.vue'
import { asDay, figure, mm, parseNumber, query } from '@/shell/format'
import RoundChoice from '@/visits/RoundChoice.vue'
import MeshForMachine from './MeshForMachine.vue'

const props = defineProps<{ visit: Schemas['VisitOut']; round: number }>()
defineEmits<{ round: [index: number] }>()
const current = computed(() => props.visit.rounds[props.round] ?? null)
const survey = computed(() => current.value?.survey ?? null)
const newest = computed(() => props.round === props.visit.rounds.length - 1)
type MeshWish = Omit<Extract<Adjusted, { kind: 'mesh' }>, 'kind'>
const wish = ref<MeshWish>({ method: 'bilinear' })
const typed = ref({ columns: '', rows: '', fade: '' })
watch(
  () => survey.value?.id,
  () => (
    (wish.value = { method: wish.value.method ?? 'bilinear' }),
    (typed.value = { columns: '', rows: '', fade: '' })
  ),
)
const {
  data: made,
  error,
  isPending,
} = useApiQuery(
  '/api/surveys/{survey_id}/compensation',
  () => (survey.value ? { survey_id: survey.value.id, ...wish.value } : null),
  { keep: true, once: true },
)
// a wish that cannot be met leaves the last mesh of this survey where it is
const last = ref<Schemas['CompensationOut'] | null>(null)
watch(made, (m) => m && (last.value = m), { immediate: true })
const data = computed(() => (error.value && last.value?.survey_id !== survey.value?.id ? null : last.value))
const { data: map } = useMap(() => survey.value?.id ?? null)
watch(data, (d) => {
  if (!d || error.value) return
  typed.value = {
    columns: typed.value.columns || String(d.columns),
    rows: typed.value.rows || String(d.rows),
    fade: typed.value.fade || String(d.fade),
  }
})
function ask(): void {
  const [columns, rows, fade] = [typed.value.columns, typed.value.rows, typed.value.fade].map(parseNumber)
  wish.value = {
    method: wish.value.method ?? 'bilinear',
    ...(columns ? { columns: Math.round(columns) } : {}),
    ...(rows ? { rows: Math.round(rows) } : {}),
    ...(fade !== null && fade !== undefined ? { fade } : {}),
  }
}
const stage = ref<'before' | 'after'>('after')
const relief = computed(
  () => (stage.value === 'after' ? data.value?.relief : map.value?.measured_relief) ?? null,
)
const seen = (one: { low: number; high: number }): string =>
  `${stage.value === 'after' ? 'With compensation' : 'As measured'}: from ${mm(one.low, true)} to ${mm(one.high, true)}`
const limit = computed(() => Math.max(data.value?.relief.limit ?? 0, map.value?.measured_relief.limit ?? 0))
const spots = computed(() => {
  const heights = stage.value === 'after' ? data.value?.heights : map.value?.measured
  return (heights ?? []).map((h, i) => ({
    x: map.value?.x[i] ?? 0,
    y: map.value?.y[i] ?? 0,
    text: figure(h - (relief.value?.datum ?? 0), true),
  }))
})
const files = computed(() => `/api/surveys/${survey.value?.id}/mesh.FORM?${query(wish.value)}`)
const keeping = useSubmit(
  'post',
  '/api/surveys/{survey_id}/adjustments',
  () => ({ survey_id: survey.value!.id }),
  {
    said: 'Noted: this mesh is in the machine. It goes out of date when the bed is moved.',
    undo: (made) => send('delete', '/api/adjustments/{adjustment_id}', { adjustment_id: made.id }),
  },
)
const stored = () => keeping.submit({ adjustment: { kind: 'mesh', ...wish.value } })
</script>

<template>
  <section v-if="!survey" class="sheet stack">
    <h2>No mesh yet</h2>
    <p>A mesh needs readings first.</p>
    <p><RouterLink :to="`/visits/${visit.id}/measure`">Put in readings</RouterLink></p>
  </section>
  <div v-else class="stack">
    <RoundChoice :rounds="visit.rounds" :round="round" @round="$emit('round', $event)" />
    <TroubleNote v-if="error">{{ sentence(error) }}</TroubleNote>
    <WaitBox v-else-if="isPending" says="Making the mesh …" />
    <div v-if="data" class="worktable even">
      <section class="sheet stack" aria-label="Map with compensation">
        <el-radio-group v-model="stage" aria-label="Stage of the map">
          <el-radio-button value="before">As measured</el-radio-button>
          <el-radio-button value="after">{{
            data.kind === 'mean' ? 'With the mean taken off' : 'With compensation'
          }}</el-radio-button>
        </el-radio-group>
        <template v-if="map && relief">
          <ReliefMap
            :bed="map.bed"
            :relief="relief"
            :limit="limit"
            :screws="map.screws"
            :spots="spots"
            :outline="map.outline"
            :label="seen(relief)"
          />
          <HeightLegend :relief="relief" :limit="limit" beyond />
        </template>
        <p v-if="!data.mean" class="small">
          {{ data.left_sentence }}
          <template v-if="data.methods_sentence">{{ data.methods_sentence }}</template>
        </p>
        <p v-if="!data.mean" class="small">{{ data.advice }}</p>
      </section>
      <div class="stack">
        <section v-if="data.stored" class="sheet stack" aria-label="The mesh in the machine">
          <h3>In the machine since {{ asDay(data.stored.made_at) }}</h3>
          <p class="small">{{ data.stored.detail }}</p>
          <template v-if="data.stored.outdated.length">
            <CautionNote>
              <b>Out of date.</b> Measure again at printing temperature and make a new mesh.
            </CautionNote>
            <ul class="small">
              <li v-for="one in data.stored.outdated" :key="one">{{ one }}</li>
            </ul>
          </template>
          <p v-else class="holds">It still holds.</p>
        </section>
        <section v-if="data.mean" class="sheet stack" aria-label="The mean alone">
          <h2>Only the mean is applied</h2>
          <el-descriptions :column="1" border class="facts right">
            <el-descriptions-item label="Mean of the readings"
              ><b>{{ mm(data.mean.mean, true) }}</b></el-descriptions-item
            >
            <el-descriptions-item label="Middle of the bed"
              ><b>{{ mm(data.mean.middle, true) }}</b></el-descriptions-item
            >
            <el-descriptions-item label="Middle over mean"
              ><b>{{ mm(data.mean.difference, true) }}</b></el-descriptions-item
            >
            <el-descriptions-item v-for="one in data.mean.corners" :key="one.name"
              ><template #label>What stays at the {{ one.name }}</template
              >{{ mm(one.height, true) }}</el-descriptions-item
            >
          </el-descriptions>
          <p v-for="one in data.mean.sentences" :key="one">{{ one }}</p>
          <p class="row">
            <RouterLink :to="`/visits/${visit.id}/level`">Take tilt and shape out by hand</RouterLink
            ><RouterLink :to="`/visits/${visit.id}/offset`">To the Z offset</RouterLink>
          </p>
        </section>
        <section v-else class="sheet stack" aria-label="This mesh">
          <h2>
            <TermHint term="mesh">{{ data.columns }} × {{ data.rows }} points</TermHint>
          </h2>
          <p :class="data.kind === 'mesh' ? 'small quiet' : 'caution'">{{ data.kind_sentence }}</p>
          <CautionNote v-if="current!.moved">
            The bed was moved after this survey. Measure again before you store a mesh.
          </CautionNote>
          <CautionNote v-else-if="survey.verdict === 'turn'">
            There is tilt left to take out. Level first: compensation then has less to do.
          </CautionNote>
          <el-form class="four" @submit.prevent="ask" @change="ask">
            <NumberField id="mesh-columns" v-model="typed.columns" label="Columns" inputmode="numeric" />
            <NumberField id="mesh-rows" v-model="typed.rows" label="Rows" inputmode="numeric" />
            <NumberField id="mesh-fade" v-model="typed.fade" label="Fade at" unit="mm" term="fade" />
            <ChoiceField id="mesh-method" v-model="wish.method" label="Between points" term="bicubic">
              <el-option value="bilinear" label="straight" />
              <el-option value="bicubic" label="curved" />
            </ChoiceField>
          </el-form>
          <p class="small">{{ data.fade_sentence }}</p>
          <TroubleNote v-if="keeping.trouble">{{ keeping.trouble }}</TroubleNote>
          <el-button
            v-if="newest && !visit.ended_at && data.kind === 'mesh' && !current!.moved && !error"
            type="primary"
            size="large"
            :loading="keeping.busy"
            @click="stored"
            >This mesh is in the machine</el-button
          >
        </section>
        <MeshForMachine v-if="!data.mean" :data="data" :visit="visit" :files="files" />
      </div>
    </div>
  </div>
</template>

<style scoped>
.four {
  display: grid;
  grid-template-columns: 1fr 1fr 1.2fr 1.4fr;
  gap: 10px;
  align-items: end;
}
@media (max-width: 640px) {
  .four {
    grid-template-columns: 1fr 1fr;
  }
}
.holds {
  color: var(--good);
  font-weight: 600;
}
ul {
  margin: 0;
  padding-left: 20px;
}
</style>
