<script setup lang="ts">
// One print: the look that is due, then its clock, with what it is made, and what came of it.
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { call, useApiQuery } from '@/api/ask'
import { takeAway, useSending } from '@/api/change'
import { sentence } from '@/api/client'
import PathMap from '@/bed/PathMap.vue'
import { useAwake } from '@/shell/awake'
import { asDay, asTime } from '@/shell/format'
import { useTrail } from '@/shell/trail'
import EndPrint from './EndPrint.vue'
import LookPanel from './LookPanel.vue'
import PrintClock from './PrintClock.vue'
import { askAgain, lasting, since, until, useClock } from './running'
import TellMe from './TellMe.vue'

const route = useRoute()
const router = useRouter()
const id = computed(() => Number(route.params.id))
const now = useClock()
const { data, error } = useApiQuery('/api/prints/{print_id}', () => ({ print_id: id.value }), {
  again: (told) =>
    told?.runs
      ? askAgain([{ ...told, looks: told.looks.length, last_seen: null, due_sentence: '' }], Date.now())
      : false,
})
const ending = ref(false)
const name = computed(() => data.value?.name || 'A print')
const { data: path } = useApiQuery('/api/prints/{print_id}/path', () =>
  data.value?.file_id && data.value.x !== null ? { print_id: id.value } : null,
)
const back = useSending({ aloud: true })
const reopen = () =>
  back.run(
    () => call('post', '/api/prints/{print_id}/reopen', { print_id: id.value }),
    'Taken back. Tell what came of it once more.',
  )
async function remove(): Promise<void> {
  // its number stands in the address, which is another one in a moment
  const [gone, called] = [id.value, name.value]
  await router.push('/prints')
  await takeAway('/api/prints/{print_id}', { print_id: gone }, `${called} was taken out.`, [
    '/api/prints/{print_id}',
  ])
}
useAwake()
useTrail(() => [{ name: 'Prints', to: '/prints' }, { name: name.value }])
</script>

<template>
  <TroubleNote v-if="error">{{ sentence(error) }}</TroubleNote>
  <div v-else-if="data" class="stack">
    <div class="row spread">
      <h1>{{ name }}</h1>
      <p class="quiet">
        <RouterLink :to="`/printers/${data.printer_id}`">{{ data.printer }}</RouterLink>, since
        {{ asTime(data.started_at)
        }}<template v-if="data.runs">
          ({{ since(data.started_at, now) }})<template v-if="data.ends_at"
            >, ends about {{ asTime(data.ends_at) }}</template
          ></template
        >
      </p>
    </div>
    <div class="worktable even">
      <div class="stack">
        <LookPanel v-if="data.runs && !data.over" :key="`${data.id} ${data.looks.length}`" :print="data" />
        <EndPrint v-if="!data.outcome && (!data.runs || data.over || ending)" :print="data" />
        <p v-else-if="!data.outcome">
          <el-button size="large" @click="ending = true">It has ended</el-button>
        </p>
        <section v-else class="sheet stack" aria-labelledby="outcome">
          <h2 id="outcome">{{ data.outcome_words }}</h2>
          <p v-if="data.ran !== null">
            After {{ lasting(data.ran * 60_000)
            }}<template v-if="data.how">: {{ data.how.toLowerCase() }}</template
            ><template v-if="data.cost !== null"> · {{ data.cost.toFixed(2) }} of material lost</template>.
          </p>
          <p v-if="data.note">{{ data.note }}</p>
          <PathMap
            v-if="data.x !== null && data.y !== null"
            :bed="data.bed"
            :paths="path?.paths ?? []"
            :places="[{ x: data.x, y: data.y }]"
            :label="`It let go at x ${data.x}, y ${data.y} mm`"
          />
          <p class="row">
            <RouterLink
              v-if="data.case_id"
              class="el-button el-button--primary plain"
              :to="`/cases/${data.case_id}`"
              >To its case</RouterLink
            >
            <el-button :loading="back.busy" @click="reopen">Take it back</el-button>
          </p>
        </section>
        <CautionNote v-for="one in data.cautions" :key="one">{{ one }}</CautionNote>
      </div>
      <div class="stack">
        <PrintClock :print="data" />
        <section class="sheet stack" aria-labelledby="made">
          <h2 id="made">With what</h2>
          <p>{{ data.made_with || 'Nothing is said of surface, material or temperatures.' }}</p>
          <p class="small">
            First layer {{ data.first_layer }} mm<template v-if="data.minutes"
              >, about {{ lasting(data.minutes * 60_000) }}</template
            ><template v-if="data.grams">, {{ data.grams }} g</template>. Begun {{ asDay(data.started_at) }},
            {{ asTime(data.started_at) }}.<template v-if="data.runs && data.ends_at">
              It ends in {{ until(data.ends_at, now) }}.</template
            >
          </p>
          <p class="row">
            <RouterLink v-if="data.file_id" :to="`/files/${data.file_id}`">Its file</RouterLink>
            <RouterLink v-if="data.visit_id" :to="`/visits/${data.visit_id}`">Its visit</RouterLink>
            <el-button type="danger" plain size="small" @click="remove">Take it out</el-button>
          </p>
        </section>
        <TellMe v-if="data.runs" />
      </div>
    </div>
  </div>
  <WaitBox v-else says="Opening the print …" kind="page" />
</template>

<style scoped>
.plain {
  text-decoration: none;
}
</style>
