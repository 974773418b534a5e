<script setup lang="ts">
// Text copied from a machine's console, wherever in a visit it is pasted: what it tells goes to the place it belongs
// to.
import { useEventListener } from '@vueuse/core'
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import { call } from '@/api/ask'
import { send, useSending } from '@/api/change'
import { sentence, type Schemas } from '@/api/client'
import type { Column } from '@/components/rows'
import { tell } from '@/shell/undo'
import { takeStates, useSwitchDraft } from '@/probing/switchDraft'
import { useDraft as useReadings } from '@/surveys/draft'
import { useDraft } from '@/shell/draft'

const props = defineProps<{ visit: Schemas['VisitOut'] }>()
type Find = Schemas['FindOut']
const router = useRouter()
const text = ref('')
const finds = ref<Find[]>([])
const switches = useSwitchDraft(props.visit.id)
const readings = useReadings(props.visit.id, props.visit.printer.probe_kind === 'none' ? 'hand' : 'typed')
const { kept: row } = useDraft(`beam-row-${props.visit.id}`, '')
const COLUMNS: Column<Find['rows'][number]>[] = [
  { key: 'title', title: 'What', says: (r) => r.title },
  { key: 'says', title: 'The printer', says: (r) => r.says || '–' },
  { key: 'book', title: 'The book', says: (r) => r.book },
]
const LONG = 60

/** Say what a text tells; of readings only when they were not pasted where they belong. */
async function sort(copied: string, elsewhere: boolean): Promise<void> {
  sending.trouble = ''
  text.value = copied
  try {
    const found = (
      await call(
        'post',
        '/api/visits/{visit_id}/pasted',
        { visit_id: props.visit.id },
        { text: copied.slice(0, 200_000) },
      )
    ).finds
    finds.value = elsewhere ? found : found.filter((one) => one.kind !== 'readings')
    if (elsewhere && !found.length) tell('Nothing of a bed or a machine was found in what you pasted.')
  } catch (e) {
    if (elsewhere) sending.lacks(sentence(e))
  }
}
defineExpose({ sort })

useEventListener(
  document,
  'paste',
  (event: ClipboardEvent) => {
    const copied = event.clipboardData?.getData('text') ?? ''
    const target = event.target as HTMLElement | null
    if (!copied.trim() || target?.closest('[role=dialog]')) return
    const area = target?.closest('textarea, [contenteditable]')
    const field = target?.closest('input')
    // a field of one line takes one line; a whole console in it would be torn
    if (field && !copied.trim().includes('\n') && copied.length <= LONG) return
    if (!area) event.preventDefault()
    void sort(copied, !area)
  },
  { capture: true },
)

const sending = useSending()
const WORDS = {
  readings: 'To the readings',
  repeatability: 'Store this test',
  switches: 'To the switches',
  settings: 'Keep what it says',
  row: 'To this row',
} as const
function done(find: Find): void {
  finds.value = finds.value.filter((one) => one !== find)
}
async function take(find: Find): Promise<void> {
  sending.trouble = ''
  if (find.kind === 'repeatability') {
    const data = find.heights.length ? { heights: find.heights } : { summary: find.summary }
    const test = { kind: 'repeatability', ...data } as const
    const made = await sending.run(
      (client_key) =>
        call('post', '/api/visits/{visit_id}/tests', { visit_id: props.visit.id }, { client_key, test }),
      'Stored in this visit.',
      ({ id }) => send('delete', '/api/tests/{test_id}', { test_id: id }),
    )
    if (!made) return
  } else if (find.kind === 'settings') {
    const made = await sending.run(
      (client_key) =>
        call(
          'post',
          '/api/printers/{printer_id}/told',
          { printer_id: props.visit.printer.id },
          { client_key, text: text.value.slice(0, 200_000) },
        ),
      'Kept. What is not as the book has it is in the logbook.',
    )
    if (!made) return
  } else if (find.kind === 'switches') takeStates(switches.value, find.switches)
  else if (find.kind === 'row' && find.step === 'sound') row.value = find.heights.join(' ')
  else if (find.kind === 'readings')
    Object.assign(readings.value, { mode: 'pasted', text: text.value, file: null, source: 'pasted' })
  done(find)
  if (find.step) await router.push(`/visits/${props.visit.id}/${find.step}`)
}
const usable = (find: Find): boolean =>
  find.kind !== 'repeatability' || find.heights.length > 0 || find.summary !== null
</script>

<template>
  <section
    v-if="finds.length || sending.trouble"
    class="sheet stack found"
    aria-label="What you pasted"
    aria-live="polite"
  >
    <div class="row spread">
      <h3>What you pasted tells</h3>
      <el-button text size="small" @click="((finds = []), (sending.trouble = ''))">Never mind</el-button>
    </div>
    <TroubleNote v-if="sending.trouble">{{ sending.trouble }}</TroubleNote>
    <div v-for="find in finds" :key="find.title" class="stack one">
      <p>
        <b>{{ find.title }}.</b> {{ find.sentence }}
      </p>
      <DataTable
        v-if="find.rows.length"
        still
        :rows="find.rows"
        :columns="COLUMNS"
        row-key="name"
        name="pasted"
      >
        <template #book="{ row: r }"
          >{{ r.book || '–' }} <span v-if="r.sentence" class="small">{{ r.sentence }}</span></template
        >
      </DataTable>
      <p v-if="usable(find)" class="row">
        <el-button type="primary" @click="take(find)">{{ WORDS[find.kind] }}</el-button>
      </p>
    </div>
  </section>
</template>

<style scoped>
.found {
  border-left: 4px solid var(--accent);
}
.one + .one {
  border-top: 1px dashed var(--line-2);
  padding-top: 8px;
}
</style>
