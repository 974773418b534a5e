<script setup lang="ts">
// One job: how far it is, what it said, how to go on when it broke off.
import { ref } from 'vue'
import { call } from '@/api/ask'
import { useSending } from '@/api/change'
import type { Schemas } from '@/api/client'
import { tell } from '@/shell/undo'
import JobConversation from './JobConversation.vue'
import { OVER, STATE_WORDS, timeLeft } from './jobs'

const props = defineProps<{ job: Schemas['JobLineOut'] }>()
const emit = defineEmits<{ resume: [id: number] }>()
const listening = ref(false)

const keeping = useSending({ aloud: true, patient: false })
const store = async (): Promise<void> => {
  const kept = await keeping.run(() => call('post', '/api/jobs/{job_id}/keep', { job_id: props.job.id }))
  if (kept) tell(kept.message)
}
</script>

<template>
  <div class="stack job" :data-job="job.state">
    <p class="row spread">
      <b>{{ job.name }}</b>
      <span class="state" :class="job.state">{{ STATE_WORDS[job.state] }}</span>
    </p>
    <template v-if="job.total && !OVER.includes(job.state)">
      <el-progress
        :percentage="Math.min(100, (100 * job.done) / job.total)"
        :show-text="false"
        :stroke-width="14"
        :aria-label="`${job.done} of ${job.total}`"
      />
      <p class="small">
        {{ job.done }} of {{ job.total
        }}{{ job.seconds_left === null ? '' : `, ${timeLeft(job.seconds_left)}` }}
      </p>
    </template>
    <p
      :class="job.silent || ['failed', 'interrupted', 'not_begun'].includes(job.state) ? 'trouble' : ''"
      role="status"
    >
      {{ job.message }}
    </p>
    <p v-if="job.live.bed !== null" class="small quiet">
      Bed {{ job.live.bed?.toFixed(1) }} °C{{
        job.live.bed_target ? ` (wanted ${job.live.bed_target.toFixed(0)})` : ''
      }}, nozzle {{ job.live.nozzle?.toFixed(1) }} °C{{
        job.live.nozzle_target ? ` (wanted ${job.live.nozzle_target.toFixed(0)})` : ''
      }}
    </p>
    <div class="row">
      <el-button v-if="job.can_resume" type="primary" @click="emit('resume', job.id)"
        >Go on where it broke off</el-button
      >
      <el-button v-if="job.can_keep" :loading="keeping.busy" @click="store">Store what was read</el-button>
      <RouterLink v-if="job.survey_id && job.visit_id" :to="`/visits/${job.visit_id}/judge`"
        >To the map</RouterLink
      >
      <el-button text @click="listening = !listening">{{
        listening ? 'Hide the conversation' : 'What was said'
      }}</el-button>
    </div>
    <JobConversation v-if="listening" :job="job.id" :live="!OVER.includes(job.state)" />
  </div>
</template>

<style scoped>
.state {
  font-weight: 650;
}
.state.done {
  color: var(--good);
}
.state.failed,
.state.not_begun,
.state.interrupted {
  color: var(--bad);
}
.state.running,
.state.waiting,
.state.stopped {
  color: var(--act);
}
</style>
