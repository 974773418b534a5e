<script setup lang="ts">
// The Z offset: what it is, and its correction by paper, by printed patches, or while it prints.
import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { call, useApiQuery } from '@/api/ask'
import { send, useSubmit } from '@/api/change'
import { sentence, type Schemas } from '@/api/client'
import { useLatest } from '@/api/latest'
import { useAwake } from '@/shell/awake'
import { useDraft } from '@/shell/draft'
import BedPanel from './BedPanel.vue'
import LadderPanel from './LadderPanel.vue'
import NewOffset from './NewOffset.vue'
import OffsetLedger from './OffsetLedger.vue'
import PaperPanel from './PaperPanel.vue'
import PatchesForm from './PatchesForm.vue'
import TrimPad from './TrimPad.vue'

const props = defineProps<{ visit: Schemas['VisitOut'] }>()
useAwake()
const { data: offset, error } = useApiQuery('/api/visits/{visit_id}/offset', () => ({
  visit_id: props.visit.id,
}))
type Way = 'paper' | 'patches' | 'ladder' | 'bed' | 'trim'
const judging = computed(() => way.value === 'ladder' || way.value === 'bed')
const asWay = useRoute().query.way
const way = ref<Way>(asWay === 'bed' || asWay === 'ladder' ? asWay : 'paper')
const place = ref<Schemas['PaperIn']['place']>('printer')
watch(offset, (o) => o && !o.parts.some((p) => p.place === place.value) && (place.value = o.parts[0]!.place))
const found = ref<Schemas['NewOffsetOut'] | null>(null)
const trouble = ref('')

// all that paper, calipers, ladders and looks say together
const { data: known } = useApiQuery('/api/visits/{visit_id}/offset/known', () => ({
  visit_id: props.visit.id,
  place: place.value,
}))
const patches = ref<InstanceType<typeof PatchesForm> | null>(null)
// half a trim survives a reload: it stands in the machine already
const { kept: trims } = useDraft<number[]>(`trims-${props.visit.id}`, [])
const sum = computed(() => Math.round(1000 * trims.value.reduce((a, b) => a + b, 0)) / 1000)

// pressed quickly, an older answer may come last: only the newest question's answer counts, and nothing is stored
// before it
const asking = useLatest()
watch(way, () => {
  asking.drop()
  found.value = null
  trouble.value = ''
  if (way.value === 'trim' && trims.value.length) void work(trim)
})
const trim = () =>
  call(
    'post',
    '/api/visits/{visit_id}/offset/trim',
    { visit_id: props.visit.id },
    { closer: sum.value, place: place.value },
  )
const shown = computed(() =>
  way.value === 'paper'
    ? known.value && (known.value.clues.length || known.value.step !== 'feel')
      ? known.value
      : null
    : found.value,
)
async function work(ask: () => Promise<Schemas['NewOffsetOut']> | string): Promise<void> {
  trouble.value = ''
  asking.drop()
  const asked = ask()
  if (typeof asked === 'string') return void (trouble.value = asked)
  const answer = await asking.run(() => asked)
  if (answer) found.value = answer
  else trouble.value = asking.trouble
}
const reason = computed(() => (way.value === 'bed' ? 'ladder' : way.value))
function clear(): void {
  if (!judging.value) found.value = null // a ladder is judged from the new offset
  trims.value = []
}
const record = useSubmit(
  'post',
  '/api/printers/{printer_id}/offset',
  () => ({ printer_id: props.visit.printer.id }),
  {
    said: 'Written down. The next print shows whether it is right.',
    undo: (made) => send('delete', '/api/offsets/{offset_id}', { offset_id: made.id }),
  },
)
async function stored(): Promise<void> {
  const one = judging.value ? found.value! : shown.value!
  const made = await record.submit({
    parts: one.parts,
    reason: reason.value,
    visit_id: props.visit.id,
    found: { closer: one.closer, ...(one.margin === null ? {} : { margin: one.margin }) },
  })
  if (!made) return void (trouble.value = record.trouble)
  if (way.value === 'patches') patches.value?.clear()
  clear()
}
</script>

<template>
  <TroubleNote v-if="error">{{ sentence(error) }}</TroubleNote>
  <div v-else-if="offset" class="worktable even">
    <div class="stack">
      <NewOffset
        v-if="shown && way === 'paper'"
        :found="shown"
        :visit="visit"
        reason="paper"
        :busy="record.busy || asking.busy"
        @stored="stored"
        @sent="clear"
      />
      <NewOffset
        v-if="found && judging"
        :found="found"
        :visit="visit"
        reason="ladder"
        :busy="record.busy || asking.busy"
        @stored="stored"
        @sent="clear"
      />
      <section v-if="!visit.ended_at" class="sheet stack" aria-label="Correct it">
        <CautionNote v-if="visit.printer.compensation === 'mean'">
          This machine moves everything by the mean of its points: find the offset with that switched on, as
          it prints, and leave it on.
          <RouterLink v-if="visit.rounds.length" :to="`/visits/${visit.id}/compensate`"
            >By how much</RouterLink
          >
        </CautionNote>
        <el-radio-group v-model="way" aria-label="Way to correct the offset"
          ><el-radio-button value="paper">Paper</el-radio-button
          ><el-radio-button value="patches">Printed patches</el-radio-button
          ><el-radio-button value="ladder">Judged ladder</el-radio-button
          ><el-radio-button value="bed">Judged bed</el-radio-button
          ><el-radio-button value="trim">While it prints</el-radio-button></el-radio-group
        >
        <PaperPanel v-if="way === 'paper'" :visit="visit" :place="place" :known="known ?? null" />
        <PatchesForm
          v-else-if="way === 'patches'"
          ref="patches"
          :visit="visit"
          :place="place"
          :spots="offset.patches"
          @work="work"
        />
        <LadderPanel v-else-if="way === 'ladder'" :visit="visit" @found="found = $event" />
        <BedPanel v-else-if="way === 'bed'" :visit="visit" @found="found = $event" />
        <TrimPad v-else v-model="trims" :visit="visit" @pressed="work(trim)" @trouble="trouble = $event" />
        <ChoiceField
          v-if="offset.parts.length > 1 && !judging"
          v-model="place"
          label="Where the correction goes"
        >
          <el-option v-for="p in offset.parts" :key="p.place" :value="p.place" :label="p.label" />
        </ChoiceField>
        <TroubleNote v-if="trouble">{{ trouble }}</TroubleNote>
      </section>
      <NewOffset
        v-if="shown && !judging && way !== 'paper'"
        :found="shown"
        :visit="visit"
        :reason="reason"
        :trimmed="way === 'trim'"
        :busy="record.busy || asking.busy"
        @stored="stored"
        @sent="clear"
      />
      <section v-if="offset.switch || offset.unreached" class="sheet stack" aria-label="The Z switch">
        <h3>The Z switch</h3>
        <CautionNote v-if="offset.switch">{{ offset.switch }}</CautionNote>
        <FoldPart v-if="offset.unreached" title="The tip does not come down to the plate">
          <p>{{ offset.unreached }}</p>
        </FoldPart>
      </section>
      <p class="row">
        <RouterLink :to="`/visits/${visit.id}/looks`">How the first layer looks, corner by corner</RouterLink
        ><RouterLink :to="`/visits/${visit.id}/first-layer`">See the first layer before you print</RouterLink
        ><RouterLink to="/extrusion">Extrusion sums</RouterLink>
      </p>
    </div>
    <OffsetLedger :visit="visit" :offset="offset" />
  </div>
  <WaitBox v-else says="Looking up the offset …" />
</template>
