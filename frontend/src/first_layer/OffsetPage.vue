<script setup lang="ts">
// The Z offset: what it is, and its correction by paper, by printed patches, or while it prints.
import { useLocalStorage } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { call, useApiQuery } from '@/api/ask'
import { send, sendKeyed, useSubmit } from '@/api/change'
import { sentence, type Schemas } from '@/api/client'
import { useLatest } from '@/api/latest'
import AskDialog from '@/machine/AskDialog.vue'
import { OVER, useJob, type JobWish } from '@/machine/jobs'
import { useAwake } from '@/shell/awake'
import { useDraft } from '@/shell/draft'
import { figure, mm, newKey, parseNumber } from '@/shell/format'
import BedPanel from './BedPanel.vue'
import LadderPanel from './LadderPanel.vue'
import NewOffset from './NewOffset.vue'
import OffsetLedger from './OffsetLedger.vue'
import PaperPanel from './PaperPanel.vue'
import TestPrintPanel from './TestPrintPanel.vue'

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
const caliper = useLocalStorage('finchwort-caliper-zero', '')
// where the printed file lays them
const spots = computed(() =>
  (offset.value?.patches ?? []).toSorted((a, b) => Number(b.name === 'middle') - Number(a.name === 'middle')),
)
const { kept: patches, clear: clearPatches } = useDraft<{ spot: string; text: string }[]>(
  `patches-${props.visit.id}`,
  [{ spot: 'middle', text: '' }],
)
const commanded = ref('')
watch(
  () => props.visit.first_layer,
  (h) => (commanded.value = String(h)),
  { immediate: true },
)
function at(name: string): { x: number; y: number } {
  const { x, y } = spots.value.find((one) => one.name === name) ?? spots.value[0]!
  return { x, y }
}
const add = (): void =>
  void patches.value.push({
    spot: spots.value.find(({ name }) => !patches.value.some((p) => p.spot === name))?.name ?? 'middle',
    text: '',
  })
// asked about once more, the same readings are one record
const patchKey = ref(newKey())
let patchesSaid = ''
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
const byPatches = (): Promise<void> =>
  work(() => {
    const height = parseNumber(commanded.value)
    if (height === null) return 'Write the height at which the patches were printed in mm, like 0.20.'
    const read = patches.value.map((p) => ({
      ...at(p.spot),
      commanded: height,
      thickness: p.text
        .split(/[\s;]+/)
        .filter(Boolean)
        .map(parseNumber),
    }))
    const bad = read.findIndex((p) => !p.thickness.length || p.thickness.includes(null))
    if (bad >= 0) {
      const spot = patches.value[bad]!.spot
      const where = spot === 'middle' ? 'in the middle' : `at the ${spot}`
      return `Write the caliper readings of the patch ${where} in mm with spaces between them: 0.24 0.26 0.25.`
    }
    const zero = caliper.value.trim() ? parseNumber(caliper.value) : null
    if (caliper.value.trim() && zero === null)
      return 'Write what the calipers show on nothing, like 0.01 or -0.01.'
    const said = JSON.stringify([read, zero])
    if (said !== patchesSaid) patchKey.value = newKey()
    patchesSaid = said
    return sendKeyed(patchKey, (client_key) =>
      send(
        'post',
        '/api/visits/{visit_id}/offset/patches',
        { visit_id: props.visit.id },
        {
          client_key,
          patches: read as Schemas['PatchIn'][],
          place: place.value,
          caliper_zero: zero,
        },
      ),
    )
  })
// over the line one step at a time, each agreed to; without one the person presses it in the printer's own menu
const overLine = useLocalStorage(`finchwort-trim-line-${props.visit.printer.id}`, true)
const wanted = ref<JobWish | null>(null)
const begun = ref<number | null>(null)
const { data: job } = useJob(begun)
let asked = 0
watch(
  () => job.value?.state,
  (state) => {
    if (!state || !OVER.includes(state)) return
    if (state === 'done') count(asked)
    else trouble.value = job.value!.message
    begun.value = null
  },
)
const press = (closer: number): void => {
  if (props.visit.printer.port && overLine.value) {
    asked = closer
    wanted.value = { kind: 'trim', visit: props.visit.id, value: closer }
  } else count(closer)
}
const count = (closer: number): void => {
  trims.value = [...trims.value, closer]
  void work(trim)
}
const unpress = (): void => {
  trims.value = trims.value.slice(0, -1)
  void work(trim)
}
const reason = computed(() => (way.value === 'bed' ? 'ladder' : way.value))
function clear(): void {
  if (!judging.value) found.value = null // a ladder is weighed anew from the new offset
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
  if (way.value === 'patches') clearPatches()
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
        <el-form v-else-if="way === 'patches'" class="stack" @submit.prevent="byPatches">
          <p>Print squares of one layer, let them cool, and measure each in several places.</p>
          <div class="pair">
            <NumberField id="commanded" v-model="commanded" label="Printed at a height of" unit="mm" />
            <NumberField
              id="caliper-zero"
              v-model="caliper"
              label="Calipers on nothing show"
              unit="mm"
              inputmode="text"
              placeholder="not looked"
            />
          </div>
          <div v-for="(p, i) in patches" :key="i" class="patch">
            <ChoiceField v-model="p.spot" :label="`Place of patch ${i + 1}`" unnamed>
              <el-option v-for="s in spots" :key="s.name" :value="s.name" :label="s.name" />
            </ChoiceField>
            <el-input
              v-model="p.text"
              inputmode="text"
              placeholder="0.24 0.26 0.25"
              :aria-label="`Caliper readings of patch ${i + 1}, mm`"
            />
            <el-button
              v-if="patches.length > 1"
              text
              size="small"
              :aria-label="`Remove patch ${i + 1}`"
              @click="patches.splice(i, 1)"
              >Remove</el-button
            >
          </div>
          <div class="row">
            <el-button type="primary" native-type="submit">What does that make?</el-button
            ><el-button :disabled="patches.length > 11" @click="add">Add a patch</el-button>
          </div>
          <CautionNote>
            Let bed and patches cool before you take them off. Blades: cut away from your hand.
          </CautionNote>
          <TestPrintPanel :visit="visit" kind="patches" />
        </el-form>
        <LadderPanel v-else-if="way === 'ladder'" :visit="visit" @found="found = $event" />
        <BedPanel v-else-if="way === 'bed'" :visit="visit" @found="found = $event" />
        <div v-else class="stack">
          <p v-if="visit.printer.port && overLine">
            Watch the lines, and press: each step is sent to {{ visit.printer.name }} by itself.
          </p>
          <p v-else>
            Trim in the printer’s menu while you watch the lines, and press here what you did there.
          </p>
          <el-switch
            v-if="visit.printer.port"
            v-model="overLine"
            aria-label="Send each step over the line"
            active-text="Send each step over the line"
          />
          <AskDialog
            :printer="visit.printer.id"
            :wanted="wanted"
            @close="wanted = null"
            @begun="begun = $event.id"
          />
          <div class="pad">
            <template v-for="step in [0.01, 0.02, 0.05]" :key="step"
              ><button
                type="button"
                :aria-label="`closer by ${figure(step)} mm`"
                class="trim"
                :disabled="begun !== null"
                @click="press(step)"
              >
                closer<b>{{ figure(step) }}</b></button
              ><button
                type="button"
                :aria-label="`farther by ${figure(step)} mm`"
                class="trim"
                :disabled="begun !== null"
                @click="press(-step)"
              >
                farther<b>{{ figure(step) }}</b>
              </button></template
            >
          </div>
          <div class="row spread">
            <p class="sum" role="status">
              {{
                Math.abs(sum) < 0.0005
                  ? 'Nothing trimmed yet'
                  : `Together ${mm(Math.abs(sum))} ${sum > 0 ? 'closer' : 'farther'}`
              }}
            </p>
            <el-button :disabled="!trims.length" @click="unpress">Undo the last</el-button>
          </div>
          <CautionNote>
            If the tip touches the plate, stop the print at once.<template
              v-if="visit.printer.compensation === 'mesh'"
            >
              Leave the bed’s knobs alone: turning them now would spoil the stored mesh.</template
            >
          </CautionNote>
          <p v-if="visit.printer.compensation !== 'mesh' && visit.printer.screws.length">
            <RouterLink :to="`/visits/${visit.id}/looks?printing=1`"
              >One corner thinner than the others? Level while it prints</RouterLink
            >
          </p>
        </div>
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

<style scoped>
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
  align-items: end;
}
.patch {
  display: grid;
  grid-template-columns: 9em minmax(0, 1fr) auto;
  gap: 8px;
  align-items: center;
}
.pad {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
}
.trim {
  font: inherit;
  font-size: 1.15rem;
  min-height: 62px;
  display: flex;
  gap: 10px;
  justify-content: center;
  align-items: center;
  color: var(--ink);
  background: var(--sheet-2);
  border: 1px solid var(--line-2);
  border-radius: var(--round);
  cursor: pointer;
}
.sum {
  font-size: 1.15rem;
  font-weight: 650;
}
@media (max-width: 520px) {
  .patch {
    grid-template-columns: 1fr 1fr;
  }
}
</style>
