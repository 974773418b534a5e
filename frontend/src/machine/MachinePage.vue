<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import { sentence } from '@/api/client'
import { usePrinter, useStanding, useVisit } from '@/api/shown'
import { parseNumber } from '@/shell/format'
import AfterList from '@/visits/AfterList.vue'
import PastedText from '@/visits/PastedText.vue'
import AskDialog from './AskDialog.vue'
import JobCard from './JobCard.vue'
import ToldPanel from './ToldPanel.vue'
import { OVER, usePrinterJobs, type JobWish } from './jobs'
import { useTrail } from '@/shell/trail'

const route = useRoute()
const id = computed(() => Number(route.params.id))
const { data, error } = usePrinter(id)
const { data: jobs } = usePrinterJobs(id)
const { data: standing } = useStanding(id)
const printer = computed(() => data.value?.printer ?? null)
const visit = computed(() => data.value?.visits.find((v) => !v.ended_at)?.id ?? null)
const { data: under } = useVisit(visit)
const wanted = ref<JobWish | null>(null)
const bed = ref('')
const nozzle = ref('')
const current = computed(() => jobs.value?.jobs.find((job) => !OVER.includes(job.state)) ?? null)
const latest = computed(() => current.value ?? jobs.value?.jobs[0] ?? null)
const known = computed(() => jobs.value?.jobs.find((job) => job.live.says) ?? null)
const ask = (body: JobWish): void => {
  wanted.value = { visit: visit.value, ...body }
}
const places = computed(() => [
  ...(printer.value?.screws.map((s) => ({ name: s.name, x: s.x, y: s.y })) ?? []),
  ...(printer.value?.pads ?? []),
])
useTrail(() => [
  { name: data.value?.printer.name ?? 'Printer', to: `/printers/${id.value}` },
  { name: 'At the line' },
])
</script>

<template>
  <div v-if="error" class="trouble" role="alert">{{ sentence(error) }}</div>
  <div v-else-if="printer" class="stack">
    <h1>{{ printer.name }}, at the line</h1>
    <PastedText v-if="under" :key="under.id" :visit="under" />
    <section v-if="!printer.port" class="sheet stack">
      <h2>No line yet</h2>
      <p>
        Finchwort can talk to a printer over a serial port or a network address. Name it in the set-up, then
        start <code>finchwort link</code> on the machine the cable goes to.
      </p>
      <p><RouterLink :to="`/printers/${printer.id}/edit`">Change the set-up</RouterLink></p>
    </section>
    <div v-else class="columns">
      <section class="sheet stack" aria-label="What to do">
        <p class="quiet small">{{ printer.port }}{{ known?.live.says ? ` · ${known.live.says}` : '' }}</p>
        <div class="row">
          <el-button type="primary" :disabled="!!current" @click="ask({ kind: 'connect' })"
            >Connect</el-button
          >
          <el-button :disabled="!!current" @click="ask({ kind: 'home' })">Home</el-button>
          <el-button :disabled="!!current" @click="ask({ kind: 'temperatures' })"
            >Read the temperatures</el-button
          >
          <el-button :disabled="!!current" @click="ask({ kind: 'switches' })">Read the switches</el-button>
          <el-button :disabled="!!current" @click="ask({ kind: 'cool' })">Heaters off</el-button>
        </div>
        <el-form
          class="heat"
          @submit.prevent="ask({ kind: 'heat', bed: parseNumber(bed), nozzle: parseNumber(nozzle) })"
        >
          <NumberField
            id="heat-bed"
            v-model="bed"
            label="Bed"
            unit="°C"
            :placeholder="`to ${printer.most_bed}`"
          />
          <NumberField
            id="heat-nozzle"
            v-model="nozzle"
            label="Nozzle"
            unit="°C"
            :placeholder="`to ${printer.most_nozzle}`"
          />
          <el-button
            native-type="submit"
            :disabled="!!current || (parseNumber(bed) === null && parseNumber(nozzle) === null)"
            >Heat and wait</el-button
          >
        </el-form>
        <div v-if="places.length" class="stack">
          <h3>Park the head over</h3>
          <div class="row">
            <el-button
              v-for="place in places"
              :key="place.name"
              :disabled="!!current"
              @click="ask({ kind: 'park', x: place.x, y: place.y, name: place.name })"
              >{{ place.name }}</el-button
            >
          </div>
        </div>
        <p v-if="latest?.live.switches" class="small">
          Switches:
          {{
            Object.entries(latest.live.switches)
              .map(([name, state]) => `${name} ${state}`)
              .join(', ')
          }}
        </p>
        <CautionNote>
          Its own protections stay on, always. Stay with it, and keep a hand near the power switch at the
          first moves after a repair.
        </CautionNote>
      </section>
      <div class="stack">
        <AfterList v-if="standing?.after" :printer="printer.id" :visit="visit" :after="standing.after" />
        <ToldPanel :printer="printer.id" />
        <section class="sheet stack" aria-label="What it is doing">
          <h2>{{ current ? 'Now' : 'Lately' }}</h2>
          <p v-if="!jobs?.jobs.length" class="quiet">
            Nothing was asked of it yet. Connect first: it says what it is, how warm it is, and how its
            switches stand.
          </p>
          <JobCard
            v-for="job in jobs?.jobs.slice(0, 12)"
            :key="job.id"
            :job="job"
            class="job"
            @resume="ask({ kind: 'grid', resume: $event })"
          />
        </section>
      </div>
    </div>
    <AskDialog :printer="printer.id" :wanted="wanted" @close="wanted = null" />
  </div>
</template>

<style scoped>
.columns {
  display: grid;
  grid-template-columns: minmax(0, 5fr) minmax(0, 6fr);
  gap: 18px;
  align-items: start;
}
.heat {
  display: grid;
  grid-template-columns: 1fr 1fr auto;
  gap: 12px;
  align-items: end;
}
.job + .job {
  border-top: 1px solid var(--line);
  padding-top: 10px;
}
@media (max-width: 800px) {
  .columns {
    grid-template-columns: minmax(0, 1fr);
  }
  .heat {
    grid-template-columns: 1fr 1fr;
  }
  .heat .el-button {
    grid-column: 1 / -1;
  }
}
</style>
