<script setup lang="ts">
// Nothing heats or moves before this was read and agreed to.
import { ref, watch } from 'vue'
import { ask, call } from '@/api/ask'
import { useSending } from '@/api/change'
import { ApiError, sentence, type Schemas } from '@/api/client'
import { newKey, parseNumber } from '@/shell/format'
import { OVER, type JobWish } from './jobs'

const props = defineProps<{ printer: number; wanted: JobWish | null }>()
const emit = defineEmits<{ close: []; begun: [job: Schemas['JobLineOut']] }>()
const asked = ref<Schemas['AskedOut'] | null>(null)
const confirmed = ref(false)
const trouble = ref('')
const key = ref(newKey())
// a machine that is to move must not begin late: nothing waits for a server that is away
const sending = useSending({ key, patient: false })

// an offset: what stands in the machine is read from it first, or typed from its screen where it does not tell
const reading = ref(false)
const waits = ref('')
const SOON = 7_000
const typing = ref(false)
const screen = ref('')
const wish = (): JobWish => {
  const mine = props.wanted!
  const shown = typing.value ? parseNumber(screen.value) : null
  return mine.kind === 'offset' && shown !== null ? { ...mine, before: shown } : mine
}

const askFor = (job: JobWish) =>
  call('post', '/api/printers/{printer_id}/jobs/ask', { printer_id: props.printer }, { job })
async function prepare(again = false): Promise<void> {
  const mine = props.wanted
  if (!mine) return
  asked.value = null
  confirmed.value = false
  trouble.value = ''
  if (!again) {
    reading.value = typing.value = false
    // nothing is sent before the machine has said what stands in it
    if (mine.kind === 'offset') return readFirst(mine)
  }
  try {
    const found = await askFor(wish())
    if (mine !== props.wanted) return
    asked.value = found
    key.value = newKey()
  } catch (e) {
    if (mine !== props.wanted) return
    if (e instanceof ApiError && e.problem.type === 'type-first') typing.value = true
    else trouble.value = sentence(e)
  }
}
async function readFirst(mine: JobWish): Promise<void> {
  const began = Date.now()
  reading.value = true
  waits.value = ''
  try {
    const job: JobWish = { kind: 'read_offset', visit: mine.visit }
    const said = await askFor(job)
    const { id } = await call(
      'post',
      '/api/printers/{printer_id}/jobs',
      { printer_id: props.printer },
      { job, client_key: newKey(), token: said.token, confirmed: false },
    )
    for (;;) {
      const job = await ask('/api/jobs/{job_id}', { job_id: id })
      if (mine !== props.wanted) return
      if (job.state === 'done') {
        typing.value = job.live.offset_told === false
        break
      }
      // one that waits long says why
      if (job.state === 'waiting' && Date.now() - began > SOON) waits.value = job.message
      if (OVER.includes(job.state)) return void (trouble.value = job.message)
      await new Promise((go) => setTimeout(go, 400))
    }
    if (!typing.value) await prepare(true)
  } catch (e) {
    trouble.value = sentence(e)
  } finally {
    reading.value = false
  }
}
async function agree(): Promise<void> {
  const job = await sending.run((client_key) =>
    call(
      'post',
      '/api/printers/{printer_id}/jobs',
      { printer_id: props.printer },
      { job: wish(), client_key, token: asked.value!.token, confirmed: confirmed.value },
    ),
  )
  if (!job) return void (trouble.value = sending.trouble)
  emit('begun', job)
  emit('close')
}
watch(
  () => props.wanted,
  () => void prepare(),
  { immediate: true },
)
</script>

<template>
  <el-dialog
    :model-value="wanted !== null"
    title="This will happen"
    width="min(94vw, 520px)"
    @close="emit('close')"
  >
    <div class="stack">
      <p v-if="asked" class="what">{{ asked.sentence }}</p>
      <p v-else-if="reading" role="status">{{ waits || 'Asking the printer what stands in it …' }}</p>
      <el-form v-else-if="typing" class="stack" @submit.prevent="prepare(true)">
        <TextField
          id="on-screen"
          v-model="screen"
          label="This printer does not tell its Z offset over the line. What does its screen show now, in mm?"
          placeholder="−1.25"
        />
        <p>
          <el-button type="primary" native-type="submit" :disabled="parseNumber(screen) === null"
            >Work out the step</el-button
          >
        </p>
      </el-form>
      <p v-else-if="!trouble" role="status">Looking at what this means …</p>
      <CautionNote
        v-for="(one, i) in asked?.cautions"
        :key="one"
        :class="{ loud: asked?.confirm && i === 0 }"
      >
        {{ one }}
      </CautionNote>
      <el-checkbox v-if="asked?.confirm" v-model="confirmed" class="confirm" size="large">{{
        asked.confirm
      }}</el-checkbox>
      <TroubleNote v-if="trouble">{{ trouble }}</TroubleNote>
      <div class="row">
        <el-button
          v-if="asked"
          type="primary"
          size="large"
          :disabled="!!asked.confirm && !confirmed"
          :loading="sending.busy"
          @click="agree"
        >
          {{ asked.moves ? 'Move' : asked.heats ? 'Heat' : 'Go on' }}
        </el-button>
        <el-button size="large" @click="emit('close')">Not now</el-button>
      </div>
    </div>
  </el-dialog>
</template>

<style scoped>
.loud {
  font-size: 1.15rem;
  font-weight: 700;
  border-width: 3px;
}
.confirm {
  height: auto;
  white-space: normal;
  align-items: flex-start;
  font-weight: 650;
}
.what {
  font-size: 1.15rem;
  font-weight: 600;
}
</style>
