<script setup lang="ts">
// How each place of a first layer looks, tapped on the phone; one knob or one trim follows, then look again.
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useApiQuery } from '@/api/ask'
import { send, useSubmit } from '@/api/change'
import { sentence, type Schemas } from '@/api/client'
import { useVisit } from '@/api/shown'
import BeadSection from '@/charts/BeadSection.vue'
import { useAwake } from '@/shell/awake'
import { useDraft } from '@/shell/draft'
import { onKey } from '@/shell/shortcuts'
import LookAnswer from './LookAnswer.vue'

type Place = Schemas['LookPlaceOut']['place']
type Step = NonNullable<Schemas['LookPlaceOut']['step']>
const route = useRoute()
const router = useRouter()
const id = computed(() => Number(route.params.id))
const printing = ref(route.query.printing === '1')
const { data: visit } = useVisit(id)
const { data, error } = useApiQuery('/api/visits/{visit_id}/looks', () => ({
  visit_id: id.value,
  printing: printing.value,
}))
// what was tapped but not sent yet survives a reload
const { kept: looks } = useDraft<Partial<Record<Place, Step>>>(`looks-${id.value}`, {})
const at = ref<Place>('front left')
const edges = ref(false)
const isEdge = (place: Place): boolean => !!data.value?.places.find((one) => one.place === place)?.edge
const words = (step: Step | undefined): string =>
  data.value?.examples.find((one) => one.step === step)?.words ?? ''
const count = computed(() => Object.keys(looks.value).length)
function tap(step: Step): void {
  looks.value = { ...looks.value, [at.value]: step }
  const order = (data.value?.rows ?? []).flat().filter((p) => edges.value || !isEdge(p))
  const next = order.find((p) => !looks.value[p])
  if (next) at.value = next
}
const add = useSubmit('post', '/api/visits/{visit_id}/looks', () => ({ visit_id: id.value }), {
  said: 'Written down.',
  undo: (made) => send('delete', '/api/trials/{trial_id}', { trial_id: made.trial! }),
})
const turned = useSubmit('post', '/api/visits/{visit_id}/looks/turned', () => ({ visit_id: id.value }), {
  said: 'Written down. Look again after the next lap.',
})
async function store(): Promise<void> {
  const made = await add.submit({
    looks: looks.value as Schemas['LooksIn']['looks'],
    printing: printing.value,
  })
  if (!made) return
  looks.value = {}
  at.value = 'front left'
}
const didTurn = () => {
  const { name, turns } = data.value!.turn!
  return turned.submit({ name, turns })
}
const leave = (): void => void router.push(`/visits/${id.value}/offset`)
onKey({ Escape: leave })
useAwake()
</script>

<template>
  <div class="card">
    <div class="head">
      <span>{{ visit?.printer.name }}</span>
      <el-switch v-model="printing" aria-label="It prints now" active-text="It prints now" />
      <el-button @click="leave">Close</el-button>
    </div>
    <TroubleNote v-if="error">{{ sentence(error) }}</TroubleNote>
    <div v-else-if="data" class="body" aria-live="polite">
      <TroubleNote v-if="add.trouble || turned.trouble">{{ add.trouble || turned.trouble }}</TroubleNote>
      <LookAnswer
        v-if="data.what !== 'look' && !count"
        :data="data"
        :visit="id"
        :busy="turned.busy"
        @turned="didTurn"
      />
      <h2>
        <span class="first">{{ at }}</span>: {{ data.what === 'look' ? 'how does it look?' : 'look again' }}
      </h2>
      <div class="grid" role="group" aria-label="Places on the bed, seen from above">
        <template v-for="row in data.rows" :key="row[0]">
          <el-button
            v-for="p in row"
            :key="p"
            class="tile"
            :class="{ now: p === at, gone: isEdge(p) && !edges }"
            :aria-pressed="p === at"
            @click="at = p"
          >
            {{ p }}<b>{{ words(looks[p]) }}</b>
          </el-button>
        </template>
      </div>
      <div class="steps" role="group" :aria-label="`How it looks at the ${at}`">
        <el-button
          v-for="e in data.examples"
          :key="e.step"
          class="tile"
          :aria-pressed="looks[at] === e.step"
          :aria-label="`${at}: ${e.words}, ${e.laid.words}`"
          @click="tap(e.step)"
        >
          <BeadSection
            :laid="e.laid"
            :spacing="data.spacing"
            :sliced="data.sliced"
            :label="e.words"
            small
          /><span
            ><b>{{ e.words }}</b
            ><br />{{ e.laid.words }}</span
          >
        </el-button>
      </div>
      <p class="row">
        <el-checkbox v-model="edges" label="The edges too" /><el-button v-if="count" text @click="looks = {}"
          >Clear</el-button
        >
      </p>
      <CautionNote>If the tip scrapes, stop the print at once.</CautionNote>
    </div>
    <div v-if="data" class="foot">
      <el-button type="primary" class="large" :disabled="!count" :loading="add.busy" @click="store"
        >What follows from {{ count || 'these' }}?</el-button
      >
    </div>
  </div>
</template>

<style scoped src="@/shell/bench.css"></style>
<style scoped>
.body {
  flex: 1;
  display: flex;
  flex-direction: column;
  gap: 12px;
  padding: 12px 16px;
  max-width: 820px;
  width: 100%;
  margin: 0 auto;
}
.first::first-letter {
  text-transform: uppercase;
}
.first {
  display: inline-block;
}
.grid {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 6px;
  border: 2px solid var(--line-2);
  border-radius: var(--round);
  padding: 8px;
  background: var(--sheet-2);
}
.grid button,
.steps button {
  font: inherit;
  color: var(--ink);
  background: var(--sheet);
  border: 1px solid var(--line-2);
  border-radius: var(--round);
  min-height: 56px;
  cursor: pointer;
}
.grid b {
  display: block;
  font-size: 0.9rem;
  color: var(--act);
}
.grid .now {
  border: 3px solid var(--accent);
}
.grid .gone {
  visibility: hidden;
}
.steps {
  display: grid;
  gap: 6px;
}
.steps button {
  display: grid;
  grid-template-columns: 110px 1fr;
  gap: 12px;
  align-items: center;
  text-align: left;
  padding: 4px 10px;
}
.steps button[aria-pressed='true'] {
  border: 3px solid var(--accent);
}
.large {
  width: 100%;
  height: auto;
  white-space: normal;
  min-height: 64px;
  font-size: 1.3rem;
  font-weight: 650;
}
.foot {
  background: var(--ground);
  border-top: 1px solid var(--line);
}
</style>
