<script setup lang="ts">
// Nothing heats or moves before this was read and agreed to.
import { ref, watch } from 'vue'
import { ApiError, give, http, sendKeyed, sentence, type Schemas } from '@/api/client'
import { api, useChange } from '@/api/queries'
import { newKey, parseNumber } from '@/shell/format'
import { OVER, type JobWish } from './jobs'

const props = defineProps<{ printer: number; wanted: JobWish | null }>()
const emit = defineEmits<{ close: []; begun: [job: Schemas['JobLineOut']] }>()
const asked = ref<Schemas['AskedOut'] | null>(null)
const confirmed = ref(false)
const trouble = ref('')
const key = ref(newKey())
const add = useChange((body: Schemas['JobIn']) => api.addJob(props.printer, body))

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

async function ask(again = false): Promise<void> {
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
    const found = await api.askJob(props.printer, wish())
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
    const said = await api.askJob(props.printer, job)
    const { id } = await api.addJob(props.printer, {
      job,
      client_key: newKey(),
      token: said.token,
      confirmed: false,
    })
    for (;;) {
      const job = await give(http.GET('/api/jobs/{job_id}', { params: { path: { job_id: id } } }))
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
    if (!typing.value) await ask(true)
  } catch (e) {
    trouble.value = sentence(e)
  } finally {
    reading.value = false
  }
}
async function agree(): Promise<void> {
  trouble.value = ''
  try {
    const job = await sendKeyed(
      key,
      (client_key) =>
        add.mutateAsync({ job: wish(), client_key, token: asked.value!.token, confirmed: confirmed.value }),
      false,
    )
    emit('begun', job)
    emit('close')
  } catch (e) {
    trouble.value = sentence(e)
  }
}
watch(
  () => props.wanted,
  () => void ask(),
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
      <el-form v-else-if="typing" class="stack" @submit.prevent="ask(true)">
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
          :loading="add.isPending.value"
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
