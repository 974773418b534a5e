<script setup lang="ts">
// While a printer works, this stands on every screen.
import { computed, ref } from 'vue'
import { sentence, type Schemas } from '@/api/client'
import { api, useChange } from '@/api/queries'
import { onKey } from '@/shell/shortcuts'
import { tell } from '@/shell/undo'
import { timeLeft, useWorking } from './jobs'

const { data } = useWorking()
const jobs = computed(() => data.value?.jobs ?? [])
const stop = useChange(({ id, how }: { id: number; how: 'soft' | 'now' }) => api.stopJob(id, how))
const sure = ref<Schemas['JobLineOut'] | null>(null)
const moving = (job: Schemas['JobLineOut']): boolean => ['grid', 'repeatability', 'soak'].includes(job.kind)

async function end(job: Schemas['JobLineOut'], how: 'soft' | 'now'): Promise<void> {
  sure.value = null
  try {
    await stop.mutateAsync({ id: job.id, how })
  } catch (e) {
    tell(sentence(e))
  }
}
onKey({ s: () => (sure.value = jobs.value[0] ?? null) })
</script>

<template>
  <div v-if="jobs.length" class="bar no-print" role="region" aria-label="Printers at work">
    <div v-for="job in jobs" :key="job.id" class="one">
      <RouterLink :to="`/printers/${job.printer_id}/machine`" class="what">
        <b>{{ job.printer }}</b> <span>{{ job.name.toLowerCase() }}{{ job.total ? `, ${job.done} of ${job.total}` : '' }}{{ job.seconds_left === null ? '' : `, ${timeLeft(job.seconds_left)}` }}</span>
        <span v-if="job.live.bed !== null" class="quiet"> · bed {{ job.live.bed?.toFixed(0) }} °C</span>
      </RouterLink>
      <button v-if="moving(job) && job.state === 'running'" type="button" class="soft" :disabled="job.stopping !== null" @click="end(job, 'soft')">
        {{ job.stopping ? 'Stopping …' : 'Stop after this one' }}
      </button>
      <button type="button" class="now" :aria-label="`Stop ${job.printer} at once`" @click="end(job, 'now')">Stop now</button>
    </div>
    <el-dialog :model-value="sure !== null" :title="`Stop ${sure?.printer ?? ''}?`" width="min(94vw, 420px)" @close="sure = null">
      <div class="row">
        <el-button type="danger" size="large" @click="sure && end(sure, 'now')">Stop now</el-button>
        <el-button v-if="sure && moving(sure)" size="large" @click="end(sure, 'soft')">After this reading</el-button>
      </div>
    </el-dialog>
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
  color: var(--ink);
  text-decoration: none;
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
  .what {
    flex-basis: 100%;
  }
  button {
    flex: 1;
    padding: 0 8px;
  }
}
</style>
