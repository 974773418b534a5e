<script setup lang="ts">
import { computed, defineAsyncComponent, ref } from 'vue'
import { useRouter } from 'vue-router'
import { call, useApiQuery } from '@/api/ask'
import { useSending } from '@/api/change'
import { sentence } from '@/api/client'
import { useMe, useToday, useWorkshop } from '@/api/shown'
import TodayList from '@/visits/TodayList.vue'
import PrinterCard from './PrinterCard.vue'

// fields are not needed for the first sight
const RenameForm = defineAsyncComponent(() => import('./RenameForm.vue'))
const FindField = defineAsyncComponent(() => import('./FindField.vue'))
const router = useRouter()
const { data, error, isPending, refetch } = useWorkshop()
// both come side by side, and nothing jumps when the second is there; without it the printers are shown all the same
const { data: today, isPending: asking } = useToday()
const search = ref('')
const shown = computed(() =>
  (data.value?.cards ?? []).filter((card) =>
    card.printer.name.toLowerCase().includes(search.value.trim().toLowerCase()),
  ),
)

const { data: me } = useMe()
const changes = computed(() => me.value?.may.includes('change') ?? true)
const mine = computed(() => me.value?.may.includes('own') ?? false)
const { data: demo } = useApiQuery('/api/demo', () => (mine.value ? {} : null), {
  again: (now) => (now?.wanted && !now.ready ? 1_000 : false),
})
const wanting = useSending({ aloud: true })
const lookAtDemo = () => wanting.run(() => call('post', '/api/demo', {}))
const starting = useSending({ aloud: true, patient: false })
async function begin(printer: number): Promise<void> {
  const visit = await starting.run(() =>
    call('post', '/api/printers/{printer_id}/visits', { printer_id: printer }, {}),
  )
  if (visit) await router.push(`/visits/${visit.id}/sound`)
}

const renaming = ref(false)
</script>

<template>
  <div class="stack">
    <WaitBox v-if="isPending || asking" says="Opening the workshop …" kind="page" />
    <div v-else-if="error" class="trouble" role="alert">
      {{ sentence(error) }} <el-button size="small" @click="refetch()">Try again</el-button>
    </div>
    <template v-else-if="data">
      <div class="row spread head">
        <component
          :is="RenameForm"
          v-if="renaming"
          :name="data.name"
          :version="data.version"
          @done="renaming = false"
        />
        <div v-else class="row">
          <h1>{{ data.name }}</h1>
          <el-button v-if="changes" text size="small" @click="renaming = true">Rename</el-button>
        </div>
        <div class="row">
          <div v-if="data.cards.length > 3" class="find">
            <component :is="FindField" v-model="search" />
          </div>
          <el-button v-if="changes" type="primary" @click="router.push('/printers/new')"
            >Add a printer</el-button
          >
        </div>
      </div>
      <section v-if="data.cards.length === 0" class="sheet stack empty">
        <h2>Begin with your printer</h2>
        <p>
          Finchwort turns readings of your bed into a map, says which knob to turn how far, and keeps a book
          of it all. It needs the size of the bed and where its screws are; that takes less than a minute.
        </p>
        <p v-if="!changes">
          There is no printer yet. It is set up on the computer, or on a device that may change set-ups.
        </p>
        <p v-else class="row">
          <el-button type="primary" size="large" @click="router.push('/begin')"
            >Begin, step by step</el-button
          >
          <el-button size="large" @click="router.push('/printers/new')">Everything on one page</el-button>
        </p>
        <p v-if="demo?.can" class="row">
          <span
            >Or look at the demo workshop instead: invented printers, some months of visits, records of its
            own.</span
          >
          <a v-if="demo.ready" class="go" :href="demo.url!" target="_blank" rel="noopener"
            >Open the demo workshop</a
          >
          <el-button v-else :loading="demo.wanted || wanting.busy" @click="lookAtDemo">{{
            demo.wanted ? 'The demo is being started …' : 'Look at the demo'
          }}</el-button>
        </p>
      </section>
      <p v-else-if="shown.length === 0" class="quiet">No printer is called that.</p>
      <TodayList v-if="today" :due="today.due" />
      <div class="cards">
        <PrinterCard
          v-for="card in shown"
          :key="card.printer.id"
          :card="card"
          :busy="starting.busy"
          @begin="begin(card.printer.id)"
        />
      </div>
    </template>
  </div>
</template>

<style scoped>
.cards {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(100%, 340px), 1fr));
  gap: 18px;
}
/* its room is kept until it comes */
.find {
  width: 200px;
  height: 46px;
}
.go {
  font-weight: 650;
}
.empty {
  max-width: 640px;
}
</style>
