<script setup lang="ts">
// While a printer works, is hot, or does nobody knows what, this stands on every screen.
import { computed, defineAsyncComponent, ref, watch } from 'vue'
import { send } from '@/api/change'
import { ApiError, sentence, type Schemas } from '@/api/client'
import { attempt, tell } from '@/shell/undo'
import { asTime } from '@/shell/format'
import { onKey } from '@/shell/shortcuts'
import { timeLeft, useWorking, type JobWish } from './jobs'

const stopping = () => import('./StopDialog.vue')
const asking = () => import('./AskDialog.vue')
const StopDialog = defineAsyncComponent(stopping)
const AskDialog = defineAsyncComponent(asking)
const { data, error } = useWorking()
const jobs = computed(() => data.value?.jobs ?? [])
const unsure = computed(() => data.value?.unsure ?? [])
// a printer that works shows its own line; heaters alone get one too
const hot = computed(() =>
  (data.value?.hot ?? []).filter(
    (one) => one.overdue || !jobs.value.some((job) => job.printer_id === one.printer_id),
  ),
)
// at hand before they are wanted, also when the server is away by then; pages without a machine at work go without
watch(
  () => jobs.value.length + hot.value.length > 0,
  (there) => there && void Promise.all([stopping(), asking()]).catch(() => undefined),
  { immediate: true },
)
const sure = ref<Schemas['JobLineOut'] | null>(null)
const unheard = ref<Record<number, string>>({})
const cooling = ref<number | null>(null)
const wanted = computed<JobWish | null>(() => (cooling.value === null ? null : { kind: 'cool' }))
const alarm = (job: Schemas['JobLineOut']): string => unheard.value[job.id] ?? (job.silent ? job.message : '')

async function end(job: Schemas['JobLineOut'], how: 'soft' | 'now'): Promise<void> {
  sure.value = null
  try {
    const said = await send('post', '/api/jobs/{job_id}/stop', { job_id: job.id }, { how })
    if (said.message) unheard.value[job.id] = said.message
  } catch (e) {
    // no answer at all: nobody can have heard it
    tell(
      e instanceof ApiError && e.status === 0
        ? 'Finchwort does not answer, so no stop is heard. Use the power switch.'
        : sentence(e),
    )
  }
}
const off = (printer: number) =>
  attempt(() => send('post', '/api/printers/{printer_id}/cold', { printer_id: printer }), '')
const seen = (id: number) => attempt(() => send('post', '/api/jobs/{job_id}/seen', { job_id: id }), '')
onKey({ s: () => (sure.value = jobs.value[0] ?? null) })
</script>

<template>
  <!-- eslint-disable vue/no-restricted-html-elements --
  a stop must stand and answer before anything of the kit is there -->
  <div
    v-if="jobs.length || unsure.length || hot.length"
    class="bar no-print"
    role="region"
    aria-label="Printers at work"
  >
    <p v-if="error" class="one alarm" role="alert">
      Finchwort does not answer, so no stop is heard. Use the power switch.
    </p>
    <div v-for="job in jobs" :key="job.id" class="one">
      <RouterLink :to="`/printers/${job.printer_id}/machine`" class="what">
        <b>{{ job.printer }}</b>
        <span
          >{{ job.name.toLowerCase() }}{{ job.total ? `, ${job.done} of ${job.total}` : ''
          }}{{ job.seconds_left === null ? '' : `, ${timeLeft(job.seconds_left)}` }}</span
        >
        <span v-if="job.live.bed !== null" class="quiet"> · bed {{ job.live.bed?.toFixed(0) }} °C</span>
      </RouterLink>
      <button
        v-if="job.has_steps && job.state === 'running'"
        type="button"
        class="soft"
        :disabled="job.stopping !== null"
        @click="end(job, 'soft')"
      >
        {{ job.stopping ? 'Stopping …' : 'Stop after this one' }}
      </button>
      <button type="button" class="now" :aria-label="`Stop ${job.printer} at once`" @click="end(job, 'now')">
        Stop now
      </button>
      <p v-if="alarm(job)" class="alarm" role="alert">{{ alarm(job) }}</p>
    </div>
    <div v-for="job in unsure" :key="job.id" class="one">
      <p class="alarm" role="alert">
        <b>{{ job.printer }}</b>: nobody knows what it does now. Use the power switch, then look.
      </p>
      <button type="button" @click="seen(job.id)">It stands still</button>
    </div>
    <div v-for="one in hot" :key="`hot-${one.printer_id}`" class="one">
      <p v-if="one.overdue" class="alarm" role="alert">
        <b>{{ one.printer }}</b>: its heaters should be off since {{ asTime(one.until!) }}, and nobody reached
        it. Use the power switch.
      </p>
      <p v-else-if="one.doubt" class="what" role="status">
        <b>{{ one.printer }}:</b> {{ one.doubt
        }}<template v-if="one.until">
          If it can be reached, heaters go off by themselves at {{ asTime(one.until) }}.</template
        >
      </p>
      <p v-else class="what">
        <b>{{ one.printer }}</b> is hot. Heaters go off by themselves at {{ asTime(one.until!) }}.
      </p>
      <button type="button" @click="cooling = one.printer_id">Heaters off</button>
      <button v-if="one.overdue || one.doubt" type="button" @click="off(one.printer_id)">
        {{ one.overdue ? 'I switched it off' : 'It is off' }}
      </button>
    </div>
    <component
      :is="StopDialog"
      v-if="sure"
      :job="sure"
      @leave="sure = null"
      @end="(how) => sure && end(sure, how)"
    />
    <component
      :is="AskDialog"
      v-if="cooling !== null"
      :printer="cooling"
      :wanted="wanted"
      @close="cooling = null"
    />
  </div>
</template>

<style scoped>
.bar {
  position: sticky;
  top: 0;
  z-index: 1500;
  background: var(--act-ground);
  border-bottom: 2px solid var(--act);
}
.one {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 12px;
  align-items: center;
  max-width: 1240px;
  margin: 0 auto;
  padding: 6px 24px;
}
.what {
  flex: 1 1 180px;
  margin: 0;
  color: var(--ink);
  text-decoration: none;
}
.alarm {
  flex: 1 1 100%;
  margin: 0;
  padding: 8px 12px;
  border-radius: var(--round);
  background: #92232b;
  color: #fff;
  font-weight: 650;
}
div.one > .alarm:first-child {
  flex: 1 1 260px;
}
button {
  font: inherit;
  font-weight: 700;
  min-height: 44px;
  padding: 0 18px;
  border-radius: var(--round);
  cursor: pointer;
  border: 2px solid var(--act);
  background: var(--sheet);
  color: var(--ink);
}
.now {
  background: #92232b;
  border-color: #92232b;
  color: #fff;
}
button:disabled {
  opacity: 0.6;
  cursor: default;
}
@media (max-width: 640px) {
  .one {
    padding: 6px 12px;
  }
  .what,
  div.one > .alarm:first-child {
    flex-basis: 100%;
  }
  button {
    flex: 1;
    padding: 0 8px;
  }
}
</style>
