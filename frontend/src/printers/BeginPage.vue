<script setup lang="ts">
// The first start: the workshop's name and the first printer, one question at a time; then the first visit.
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { call } from '@/api/ask'
import { send } from '@/api/change'
import { sentence, type Schemas } from '@/api/client'
import { useWorkshop } from '@/api/shown'
import KnobCount from './KnobCount.vue'
import { useDraft } from '@/shell/draft'
import { parseNumber } from '@/shell/format'

const STEPS = ['Workshop', 'Printer', 'Size', 'Carried', 'Measuring'] as const
type Carried = '4' | '3' | 'pads' | 'none'
type Measuring = 'paper' | 'gauge' | 'probe'
const CARRIED: { key: Carried; name: string; says: string }[] = [
  { key: '4', name: 'Four knobs', says: 'One at each corner, under the bed.' },
  { key: '3', name: 'Three knobs', says: 'Two at one side, one opposite.' },
  { key: 'pads', name: 'No knobs', says: 'The plate lies on pads or a frame; foil goes between.' },
  { key: 'none', name: 'I do not know yet', says: 'Measured first; this can be told later in the set-up.' },
]
const MEASURING: { key: Measuring; name: string; says: string }[] = [
  { key: 'paper', name: 'A strip of paper', says: 'Ordinary printing paper, about 0.1 mm.' },
  { key: 'gauge', name: 'A feeler or dial gauge', says: 'Readings are typed, place by place.' },
  {
    key: 'probe',
    name: 'The printer’s own probe',
    says: 'Where it sits is told later in the set-up; readings may be pasted.',
  },
]
const router = useRouter()
const { data: workshop } = useWorkshop()
const { kept, clear } = useDraft('begin', {
  at: 0,
  workshop: '',
  name: '',
  width: '',
  depth: '',
  carried: '' as Carried | '',
  measuring: '' as Measuring | '',
})
const form = kept
const trouble = ref('')
const busy = ref(false)
const size = computed(() => ({ width: parseNumber(form.value.width), depth: parseNumber(form.value.depth) }))
const fits = (n: number | null): boolean => n !== null && n >= 40 && n <= 2000

/** Why one cannot go on; empty when one can. */
const missing = computed(() => {
  const now = form.value
  if (now.at === 0) return now.workshop.trim() ? '' : 'Give it a name. It can be changed at any time.'
  if (now.at === 1) return now.name.trim() ? '' : 'Give the printer a name, the one that you call it by.'
  if (now.at === 2)
    return fits(size.value.width) && fits(size.value.depth) ? '' : 'Both sides in mm, between 40 and 2000.'
  if (now.at === 3) return now.carried ? '' : 'Choose one.'
  return now.measuring ? '' : 'Choose one.'
})

async function printer(): Promise<Schemas['PrinterIn']> {
  const { width, depth } = size.value as { width: number; depth: number }
  const { carried } = form.value
  const screws = carried === '3' ? 3 : carried === 'none' ? 0 : 4
  const found = await call('post', '/api/suggestions', {}, { width, depth, screws })
  const places = found.screws.map(({ name, x, y }) => ({ name, x, y }))
  return {
    name: form.value.name.trim(),
    width,
    depth,
    screws:
      carried === '4' || carried === '3'
        ? places.map((one) => ({ ...one, thread: 'M4' as const, pitch: 0.7 }))
        : [],
    pads: carried === 'pads' ? places.map((one) => ({ ...one, foils: [] })) : [],
  }
}

async function next(): Promise<void> {
  trouble.value = missing.value
  if (trouble.value) return
  if (form.value.at < STEPS.length - 1) return void (form.value.at += 1)
  busy.value = true
  try {
    await send(
      'put',
      '/api/workshop',
      {},
      { name: form.value.workshop.trim(), version: workshop.value?.version ?? 0 },
    )
    const made = await send('post', '/api/printers', {}, await printer())
    const visit = await send('post', '/api/printers/{printer_id}/visits', { printer_id: made.id }, {})
    const way = form.value.measuring
    clear()
    await router.push(`/visits/${visit.id}/${way === 'probe' ? 'sound' : 'measure'}`)
  } catch (e) {
    trouble.value = sentence(e)
  } finally {
    busy.value = false
  }
}
function back(): void {
  trouble.value = ''
  form.value.at -= 1
}
</script>

<template>
  <div class="tour stack">
    <el-steps :active="form.at" finish-status="success" align-center class="steps" aria-label="Steps">
      <el-step v-for="one in STEPS" :key="one" :title="one" />
    </el-steps>
    <p class="quiet now" role="status">Step {{ form.at + 1 }} of {{ STEPS.length }}</p>
    <el-form class="sheet stack" @submit.prevent="next">
      <template v-if="form.at === 0">
        <h1><label for="workshop">What is your workshop called?</label></h1>
        <el-input id="workshop" v-model="form.workshop" size="large" maxlength="80" placeholder="The shed" />
      </template>
      <template v-else-if="form.at === 1">
        <h1><label for="printer">What do you call the printer?</label></h1>
        <el-input id="printer" v-model="form.name" size="large" maxlength="80" />
        <p class="quiet">Any name that you know it by.</p>
      </template>
      <template v-else-if="form.at === 2">
        <h1>How large is the area it prints on?</h1>
        <div class="sides">
          <label for="width">Left to right</label
          ><el-input id="width" v-model="form.width" size="large" inputmode="decimal" class="side"
            ><template #append>mm</template></el-input
          >
          <label for="depth">Front to back</label
          ><el-input id="depth" v-model="form.depth" size="large" inputmode="decimal" class="side"
            ><template #append>mm</template></el-input
          >
        </div>
        <p class="quiet">It stands in the manual, and in the slicer’s settings of this printer.</p>
      </template>
      <template v-else-if="form.at === 3">
        <h1 id="carried">What carries the bed?</h1>
        <el-radio-group v-model="form.carried" class="choices" aria-labelledby="carried">
          <el-radio v-for="one in CARRIED" :key="one.key" :value="one.key" border
            ><KnobCount :kind="one.key" /><span
              ><b>{{ one.name }}</b
              ><br />{{ one.says }}</span
            ></el-radio
          >
        </el-radio-group>
      </template>
      <template v-else>
        <h1 id="measuring">What do you measure with?</h1>
        <el-radio-group v-model="form.measuring" class="choices" aria-labelledby="measuring">
          <el-radio v-for="one in MEASURING" :key="one.key" :value="one.key" border
            ><span
              ><b>{{ one.name }}</b
              ><br />{{ one.says }}</span
            ></el-radio
          >
        </el-radio-group>
        <CautionNote>
          Bed and nozzle may be hot. Keep fingers out from under the nozzle while the motors are on.
        </CautionNote>
      </template>
      <TroubleNote v-if="trouble">{{ trouble }}</TroubleNote>
      <p class="row">
        <el-button type="primary" size="large" native-type="submit" :loading="busy">{{
          form.at === STEPS.length - 1 ? 'Start the first visit' : 'Next'
        }}</el-button>
        <el-button v-if="form.at" size="large" @click="back">Back</el-button>
      </p>
    </el-form>
    <p class="quiet small">
      What is typed here is kept until you are done. <RouterLink to="/">To the workshop</RouterLink>
    </p>
  </div>
</template>

<style scoped>
.tour {
  max-width: 720px;
  margin: 0 auto;
}
.sides {
  display: grid;
  grid-template-columns: max-content minmax(0, 10em);
  gap: 10px 14px;
  align-items: center;
}
.tour :deep(.el-step__title) {
  font-size: 1rem;
  line-height: 2;
}
.tour :deep(.el-step .is-wait) {
  color: var(--ink-2);
  border-color: var(--ink-2);
}
.tour :deep(.el-input__inner) {
  font-size: 1.15rem;
}
.choices {
  display: grid;
  gap: 10px;
  width: 100%;
}
.choices .el-radio {
  margin: 0;
  height: auto;
  min-height: 64px;
  padding: 10px 14px;
  white-space: normal;
  line-height: 1.35;
}
.choices :deep(.el-radio__label) {
  display: flex;
  gap: 14px;
  align-items: center;
}
@media (max-width: 640px) {
  .steps {
    display: none;
  }
}
@media (min-width: 641px) {
  .now {
    position: absolute;
    clip-path: inset(50%);
  }
}
</style>
