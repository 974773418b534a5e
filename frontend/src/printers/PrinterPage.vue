<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { call } from '@/api/ask'
import { takeAway, useSending } from '@/api/change'
import { sentence } from '@/api/client'
import { usePrinter, useStanding } from '@/api/shown'
import VariationChart from '@/charts/VariationChart.vue'
import { count } from '@/shell/format'
import { afterPaint } from '@/shell/soon'
import CountedPanel from '@/prints/CountedPanel.vue'
import LearnedKnobs from '@/tramming/LearnedKnobs.vue'
import AfterList from '@/visits/AfterList.vue'
import HappenedDialog from '@/visits/HappenedDialog.vue'
import DriftPanel from './DriftPanel.vue'
import SetUpFacts from './SetUpFacts.vue'
import StandingPanel from './StandingPanel.vue'
import SurfaceList from './SurfaceList.vue'
import VisitList from './VisitList.vue'
import { useTrail } from '@/shell/trail'

const route = useRoute()
const router = useRouter()
const id = computed(() => Number(route.params.id))
const { data, error, isPending } = usePrinter(id)
const happened = ref(false)
const { data: standing, isPending: waits } = useStanding(id)
const open = computed(() => data.value?.visits.find((v) => !v.ended_at) ?? null)

const starting = useSending({ aloud: true, patient: false })
async function begin(): Promise<void> {
  const visit = await starting.run(() =>
    call('post', '/api/printers/{printer_id}/visits', { printer_id: id.value }, {}),
  )
  if (visit) await router.push(`/visits/${visit.id}/sound`)
}
const last = computed(
  () =>
    `Delete ${data.value?.printer.name} with ${count(data.value?.visits.length ?? 0, 'visit')}? ` +
    'Right after, it can be undone.',
)
async function deletePrinter(): Promise<void> {
  const printer = data.value!.printer
  await router.push('/')
  await takeAway(
    '/api/printers/{printer_id}',
    { printer_id: printer.id },
    `${printer.name} was deleted with its visits.`,
    ['/api/printers/', '/api/visits/', '/api/surveys/'],
  )
}
useTrail(() => [{ name: data.value?.printer.name ?? 'Printer' }])
</script>

<template>
  <!-- both at once: what comes first must not come late and push the rest down -->
  <WaitBox v-if="isPending || (waits && !error)" says="Opening …" kind="page" />
  <div v-else-if="error" class="trouble" role="alert">{{ sentence(error) }}</div>
  <div v-else-if="data" class="stack">
    <div class="row spread">
      <h1>{{ data.printer.name }}</h1>
      <div class="row">
        <RouterLink v-if="open" class="el-button el-button--primary plain" :to="`/visits/${open.id}`"
          >Go on with the visit</RouterLink
        >
        <el-button :type="open ? undefined : 'primary'" :loading="starting.busy" @click="begin">{{
          open ? 'Start another' : 'Start a visit'
        }}</el-button>
        <RouterLink class="el-button plain" :to="`/printers/${data.printer.id}/print`"
          >I print now</RouterLink
        >
        <RouterLink
          v-if="data.printer.port"
          class="el-button plain"
          :to="`/printers/${data.printer.id}/machine`"
          >At the line</RouterLink
        >
        <RouterLink class="el-button plain" :to="`/printers/${data.printer.id}/cases/new`"
          >Open a case</RouterLink
        >
        <RouterLink class="el-button plain" :to="`/files?printer=${data.printer.id}`"
          >Before a print</RouterLink
        >
        <RouterLink class="el-button plain" :to="`/printers/${data.printer.id}/edit`"
          >Change the set-up</RouterLink
        >
        <el-button @click="afterPaint(() => (happened = true))">Something happened</el-button>
        <el-popconfirm
          :title="last"
          confirm-button-text="Delete it"
          confirm-button-type="danger"
          cancel-button-text="Keep it"
          hide-icon
          :width="280"
          @confirm="deletePrinter"
          ><template #reference><el-button type="danger" plain>Delete</el-button></template></el-popconfirm
        >
      </div>
    </div>
    <HappenedDialog v-model="happened" :printer="data.printer" :visit="open?.id ?? null" />
    <AfterList
      v-if="standing?.after"
      :printer="id"
      :line="!!data.printer.port"
      :visit="open?.id ?? null"
      :after="standing.after"
    />
    <div class="columns">
      <div class="stack">
        <StandingPanel :printer="id" />
        <VisitList :all="data.visits" />
        <CountedPanel :printer="id" />
      </div>
      <div class="stack">
        <section v-if="data.visits.length" class="sheet stack" aria-label="From visit to visit">
          <h2>From visit to visit</h2>
          <VariationChart :history="data.visits" :good="data.printer.good_spread" />
          <p class="small quiet">Ring: as found. Dot: as left. Millimetres from highest to lowest reading.</p>
        </section>
        <section class="sheet stack">
          <h2>Set-up</h2>
          <SetUpFacts :printer="data.printer" />
          <SurfaceList v-if="data.printer.surfaces.length" :printer="data.printer" />
        </section>
      </div>
    </div>
    <LearnedKnobs v-if="data.printer.screws.length" :key="`k${id}`" :printer="data.printer" />
    <DriftPanel :key="`d${id}`" :printer="id" />
  </div>
</template>

<style scoped>
.columns {
  display: grid;
  grid-template-columns: minmax(0, 6fr) minmax(0, 5fr);
  gap: 18px;
  align-items: start;
}
.plain {
  text-decoration: none;
}
@media (max-width: 800px) {
  .columns {
    grid-template-columns: 1fr;
  }
}
</style>
