<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { computed, reactive, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { ask, call, useApiQuery } from '@/api/ask'
import { useSending } from '@/api/change'
import { sentence, type Schemas } from '@/api/client'
import ReliefMap from '@/bed/ReliefMap.vue'
import { useDraft } from '@/shell/draft'
import { parseNumber } from '@/shell/format'
import { differ } from './differences'
import { BESIDE, collectMore, emptyMore, limitOf, takeMore, type More } from './more'
import KeepOffFields from './KeepOffFields.vue'
import MoreFields from './MoreFields.vue'
import PadFields from './PadFields.vue'
import { useTrail } from '@/shell/trail'

type Printer = Schemas['PrinterOut']
interface ScrewText {
  name: string
  x: string
  y: string
  thread: string
  pitch: string
}

const route = useRoute()
const router = useRouter()
const id = computed(() => (route.params.id ? Number(route.params.id) : null))
const { data: threads } = useApiQuery('/api/threads', {}, { fixed: true })
const form = reactive({
  name: '',
  width: '220',
  depth: '220',
  origin: 'front_left' as Printer['origin'],
  plate_width: '',
  plate_depth: '',
  first_layer: '0.20',
  thread_hand: 'right' as Printer['thread_hand'],
  knob_view: 'behind' as Printer['knob_view'],
  tightening_lowers: true,
  divisions: '8',
  repeatability: '',
  note: '',
  screws: [] as ScrewText[],
})
const more = ref<More>(emptyMore())
const reach = ref<Schemas['Rectangle'] | null>(null)
const thread = ref('M4')
const version = ref<number | null>(null)
type Support = 0 | 3 | 4 | 'pads'
const screwCount = ref<Support>(4)
const ownPlaces = ref(false)
const errors = ref<Record<string, string>>({})
const trouble = ref('')
const loadError = ref('')
const bed = ref<Schemas['Bed'] | null>(null)
const theirs = ref<Printer | null>(null)
const ready = ref(false)

const text = (value: number | null): string => (value === null ? '' : String(value))

function take(printer: Printer): void {
  version.value = printer.version
  Object.assign(form, {
    name: printer.name,
    width: text(printer.width),
    depth: text(printer.depth),
    origin: printer.origin,
    // a plate as large as the printable area stays so when that is changed: no figure nobody typed may refuse it
    plate_width: printer.plate_width === printer.width ? '' : text(printer.plate_width),
    plate_depth: printer.plate_depth === printer.depth ? '' : text(printer.plate_depth),
    first_layer: printer.first_layer.toFixed(2),
    thread_hand: printer.thread_hand,
    knob_view: printer.knob_view,
    tightening_lowers: printer.tightening_lowers,
    divisions: text(printer.divisions),
    repeatability: text(printer.repeatability),
    note: printer.note,
    screws: printer.screws.map((s) => ({
      name: s.name,
      x: text(s.x),
      y: text(s.y),
      thread: s.thread,
      pitch: text(s.pitch),
    })),
  })
  more.value = takeMore(printer)
  reach.value = printer.probe_kind === 'none' ? null : printer.probe_reach
  screwCount.value = printer.pads.length ? 'pads' : (printer.screws.length as 0 | 3 | 4)
  thread.value = printer.screws[0]?.thread ?? 'M4'
  ownPlaces.value = true
  bed.value = printer.bed
}

// half a set-up survives a reload, another page and a server that was away
const typed = () => ({
  form: { ...form },
  more: more.value,
  screwCount: screwCount.value,
  thread: thread.value,
  ownPlaces: ownPlaces.value,
  version: version.value,
})
const { kept } = useDraft<{ text: string }>(`set-up-${id.value ?? 'new'}`, { text: '' })
const found = ref(false)
let begun = ''
function restore(): void {
  if (!kept.value.text) return
  const before = JSON.parse(kept.value.text) as ReturnType<typeof typed>
  Object.assign(form, before.form)
  more.value = before.more
  screwCount.value = before.screwCount
  thread.value = before.thread
  ownPlaces.value = before.ownPlaces
  version.value = before.version
  found.value = true
}
watch(
  () => ready.value && JSON.stringify(typed()),
  (now) => now && begun && (kept.value = { text: now === begun ? '' : now }),
)
function beginAgain(): void {
  kept.value = { text: '' }
  window.location.reload()
}
async function load(): Promise<void> {
  try {
    if (id.value !== null) take((await ask('/api/printers/{printer_id}', { printer_id: id.value })).printer)
    else await suggest()
    begun = JSON.stringify(typed())
    restore()
    if (found.value) await suggest()
    ready.value = true
  } catch (e) {
    loadError.value = sentence(e)
  }
}

const pitchOf = (name: string): string =>
  text(threads.value?.threads.find((t) => t.name === name)?.pitch ?? null)

async function suggest(): Promise<void> {
  const width = parseNumber(form.width)
  const depth = parseNumber(form.depth)
  if (width === null || depth === null) return
  try {
    const answer = await call(
      'post',
      '/api/suggestions',
      {},
      {
        width,
        depth,
        origin: form.origin,
        plate_width: parseNumber(form.plate_width),
        plate_depth: parseNumber(form.plate_depth),
        screws: screwCount.value === 'pads' ? 4 : screwCount.value,
        probe_dx: BESIDE.includes(more.value.probe_kind) ? (parseNumber(more.value.probe_dx) ?? 0) : 0,
        probe_dy: BESIDE.includes(more.value.probe_kind) ? (parseNumber(more.value.probe_dy) ?? 0) : 0,
        keep_off: barred.value,
      },
    )
    bed.value = answer.bed
    reach.value = more.value.probe_kind === 'none' ? null : answer.probe_reach
    if (!ownPlaces.value && screwCount.value === 'pads') {
      form.screws = []
      more.value.pads = answer.screws.map((s) => ({ name: s.name, x: text(s.x), y: text(s.y), foils: [] }))
    } else if (!ownPlaces.value) {
      more.value.pads = []
      form.screws = answer.screws.map((s) => ({
        name: s.name,
        x: text(s.x),
        y: text(s.y),
        thread: thread.value,
        pitch: form.screws[0]?.pitch || pitchOf(thread.value) || '0.7',
      }))
    }
  } catch {
    // the size is not one yet; it is said when the person saves
  }
}
// what is typed so far of the places to keep off, drawn while it is typed
const barred = computed(() =>
  more.value.keep_off.flatMap((one) => {
    const [x_min, x_max, y_min, y_max, height] = [one.left, one.right, one.front, one.back, one.height].map(
      parseNumber,
    )
    return one.name.trim() && x_min !== null && x_max !== null && y_min !== null && y_max !== null
      ? [{ name: one.name, x_min: x_min!, x_max: x_max!, y_min: y_min!, y_max: y_max!, height: height ?? 5 }]
      : []
  }),
)
const suggestSoon = useDebounceFn(suggest, 150)
watch(
  () => [
    form.width,
    form.depth,
    form.origin,
    form.plate_width,
    form.plate_depth,
    more.value.probe_kind,
    more.value.probe_dx,
    more.value.probe_dy,
    JSON.stringify(barred.value),
  ],
  () => ready.value && void suggestSoon(),
)

function chooseCount(n: Support): void {
  screwCount.value = n
  ownPlaces.value = false
  void suggest()
}
function chooseThread(name: string): void {
  thread.value = name
  for (const screw of form.screws) {
    screw.thread = name
    if (name !== 'own') screw.pitch = pitchOf(name)
  }
}
watch(threads, () => form.screws.forEach((s) => (s.pitch ||= pitchOf(s.thread))))

const placed = computed(() =>
  form.screws
    .map((s) => ({ name: s.name, x: parseNumber(s.x), y: parseNumber(s.y) }))
    .filter((s): s is { name: string; x: number; y: number } => s.x !== null && s.y !== null),
)
const pads = computed(() =>
  more.value.pads
    .map((s) => ({ name: s.name, x: parseNumber(s.x), y: parseNumber(s.y) }))
    .filter((s): s is { name: string; x: number; y: number } => s.x !== null && s.y !== null),
)
const notes = computed(() => [...placed.value, ...pads.value].map((s) => ({ name: s.name, text: s.name })))
function move(name: string, x: number, y: number): void {
  const post = form.screws.find((s) => s.name === name) ?? more.value.pads.find((p) => p.name === name)
  if (!post) return
  ownPlaces.value = true
  Object.assign(post, { x: String(x), y: String(y) })
}

function collect(): Schemas['PrinterIn'] | null {
  const found: Record<string, string> = {}
  const number = (field: string, value: string): number => {
    const parsed = parseNumber(value)
    if (parsed === null) found[field] = 'This must be a number.'
    return parsed ?? 0
  }
  const maybe = (field: string, value: string): number | null => (value.trim() ? number(field, value) : null)
  if (!form.name.trim()) found.name = 'A printer needs a name.'
  const body: Schemas['PrinterIn'] = {
    name: form.name,
    width: number('width', form.width),
    depth: number('depth', form.depth),
    origin: form.origin,
    plate_width: maybe('plate_width', form.plate_width),
    plate_depth: maybe('plate_depth', form.plate_depth),
    first_layer: number('first_layer', form.first_layer),
    thread_hand: form.thread_hand,
    knob_view: form.knob_view,
    tightening_lowers: form.tightening_lowers,
    divisions: Math.round(number('divisions', form.divisions)),
    repeatability: maybe('repeatability', form.repeatability),
    note: form.note,
    screws: form.screws.map((s, i) => ({
      name: s.name,
      x: number(`screws.${i}.x`, s.x),
      y: number(`screws.${i}.y`, s.y),
      thread: s.thread,
      pitch: number(`screws.${i}.pitch`, s.pitch),
      ...limitOf(more.value, s.name, i, maybe),
    })),
    ...collectMore(more.value, number, maybe),
  }
  errors.value = found
  return Object.keys(found).length ? null : body
}

// a new one sent twice would be two printers
const saving = useSending({ patient: id.value !== null })

async function save(): Promise<void> {
  trouble.value = ''
  const body = collect()
  if (!body) {
    trouble.value = 'Something is missing; see the marked fields.'
    return
  }
  const mine = id.value
  const saved = await saving.run(
    () =>
      mine === null
        ? call('post', '/api/printers', {}, body)
        : call(
            'put',
            '/api/printers/{printer_id}',
            { printer_id: mine },
            { ...body, version: version.value! },
          ),
    mine === null ? `${body.name} is set up.` : 'The set-up is saved.',
  )
  if (saved) {
    begun = ''
    kept.value = { text: '' }
    return void (await router.push(`/printers/${saved.id}`))
  }
  if (saving.stale && mine !== null) {
    theirs.value = (await ask('/api/printers/{printer_id}', { printer_id: mine })).printer
    return
  }
  trouble.value = saving.trouble
  Object.assign(errors.value, saving.wrong)
}

const differences = computed(() => {
  const mine = theirs.value ? collect() : null
  return theirs.value && mine ? differ(mine, theirs.value) : []
})
function useTheirs(): void {
  take(theirs.value!)
  theirs.value = null
}
async function keepMine(): Promise<void> {
  version.value = theirs.value!.version
  theirs.value = null
  await save()
}
void load()
useTrail(() =>
  id.value === null
    ? [{ name: 'New printer' }]
    : [{ name: form.name || 'Printer', to: `/printers/${id.value}` }, { name: 'Set-up' }],
)
</script>

<template>
  <div v-if="loadError" class="trouble" role="alert">{{ loadError }}</div>
  <el-form v-else-if="ready" class="stack" @submit.prevent="save">
    <h1>{{ id === null ? 'Set up a printer' : `Set-up of ${form.name}` }}</h1>
    <CautionNote v-if="found" role="status">
      What you typed before is here again, not saved yet.
      <el-button text size="small" @click="beginAgain">Begin again</el-button>
    </CautionNote>
    <div class="columns">
      <div class="stack">
        <section class="sheet stack">
          <h2>The bed</h2>
          <TextField
            id="name"
            v-model="form.name"
            label="Name"
            maxlength="80"
            placeholder="What you call it"
            autocomplete="off"
            :wrong="errors.name"
          />
          <div class="pair">
            <NumberField
              id="width"
              v-model="form.width"
              label="Printable width (X)"
              unit="mm"
              :wrong="errors.width"
            />
            <NumberField
              id="depth"
              v-model="form.depth"
              label="Printable depth (Y)"
              unit="mm"
              :wrong="errors.depth"
            />
          </div>
          <fieldset>
            <legend class="label">Where is X 0, Y 0?</legend>
            <el-radio-group v-model="form.origin" aria-label="Zero point">
              <el-radio-button value="front_left">Front left</el-radio-button>
              <el-radio-button value="centre">In the middle</el-radio-button>
            </el-radio-group>
          </fieldset>
          <FoldPart title="Plate size, first layer, probe">
            <div class="stack inner">
              <div class="pair">
                <NumberField
                  id="plate-width"
                  v-model="form.plate_width"
                  label="Plate width"
                  unit="mm"
                  placeholder="as the printable area"
                  :wrong="errors.plate_width"
                />
                <NumberField
                  id="plate-depth"
                  v-model="form.plate_depth"
                  label="Plate depth"
                  unit="mm"
                  placeholder="as the printable area"
                  :wrong="errors.plate_depth"
                />
              </div>
              <div class="pair">
                <div>
                  <NumberField id="first-layer" v-model="form.first_layer" label="First layer" unit="mm" />
                  <p class="small quiet">All judgements are made against it.</p>
                  <p v-if="errors.first_layer" class="wrong">{{ errors.first_layer }}</p>
                </div>
                <div>
                  <NumberField
                    id="repeatability"
                    v-model="form.repeatability"
                    label="Probe repeats to"
                    unit="mm"
                    placeholder="not known"
                  />
                  <p class="small quiet">Standard deviation at one point, if you know it.</p>
                  <p v-if="errors.repeatability" class="wrong">{{ errors.repeatability }}</p>
                </div>
              </div>
              <TextField id="note" v-model="form.note" label="Note" maxlength="500" />
            </div>
          </FoldPart>
        </section>
        <section class="sheet stack">
          <h2>What carries the plate</h2>
          <fieldset>
            <legend class="label">Screws, pads, or neither?</legend>
            <el-radio-group
              :model-value="screwCount"
              aria-label="Number of screws"
              @update:model-value="chooseCount($event as Support)"
            >
              <el-radio-button :value="4">Four screws</el-radio-button>
              <el-radio-button :value="3">Three screws</el-radio-button>
              <el-radio-button value="pads">Pads, shimmed</el-radio-button>
              <el-radio-button :value="0">Neither</el-radio-button>
            </el-radio-group>
          </fieldset>
          <template v-if="form.screws.length">
            <div class="pair">
              <ChoiceField
                id="thread"
                label="Thread (ISO 261)"
                term="pitch"
                :model-value="thread"
                @update:model-value="chooseThread"
              >
                <el-option
                  v-for="t in threads?.threads"
                  :key="t.name"
                  :value="t.name"
                  :label="`${t.name}: ${t.pitch} mm a turn`"
                />
                <el-option value="own" label="another pitch" />
              </ChoiceField>
              <NumberField
                id="divisions"
                v-model="form.divisions"
                label="You turn in steps of 1/…"
                inputmode="numeric"
                :wrong="errors.divisions"
              />
            </div>
            <fieldset>
              <legend class="label">How do you see the knobs when you turn them?</legend>
              <el-radio-group v-model="form.knob_view" aria-label="How the knobs are seen">
                <el-radio-button value="behind">From above, knob under the bed</el-radio-button>
                <el-radio-button value="face">Looking at the knob or screw head</el-radio-button>
              </el-radio-group>
              <p class="small quiet">
                A right-hand thread tightens clockwise when you look at the knob itself, counterclockwise when
                you look down at it through the bed.
              </p>
            </fieldset>
            <FoldPart title="Positions, unusual threads">
              <div class="stack inner">
                <table class="plain-table screws">
                  <thead>
                    <tr>
                      <th>Screw</th>
                      <th>X, mm</th>
                      <th>Y, mm</th>
                      <th>mm a turn</th>
                    </tr>
                  </thead>
                  <tbody>
                    <tr v-for="(screw, i) in form.screws" :key="i">
                      <td>
                        <el-input
                          v-model="screw.name"
                          maxlength="40"
                          :aria-label="`Name of screw ${i + 1}`"
                        />
                      </td>
                      <td>
                        <NumberField
                          v-model="screw.x"
                          :label="`X of ${screw.name}`"
                          unnamed
                          :wrong="errors[`screws.${i}.x`]"
                          @input="ownPlaces = true"
                        />
                      </td>
                      <td>
                        <NumberField
                          v-model="screw.y"
                          :label="`Y of ${screw.name}`"
                          unnamed
                          :wrong="errors[`screws.${i}.y`]"
                          @input="ownPlaces = true"
                        />
                      </td>
                      <td>
                        <NumberField
                          v-model="screw.pitch"
                          :label="`Pitch of ${screw.name}`"
                          unnamed
                          :wrong="errors[`screws.${i}.pitch`]"
                          @input="((thread = 'own'), (screw.thread = 'own'))"
                        />
                      </td>
                    </tr>
                  </tbody>
                </table>
                <fieldset>
                  <legend class="label">Thread</legend>
                  <el-radio-group v-model="form.thread_hand" aria-label="Hand of the thread">
                    <el-radio-button value="right">Right-hand (usual)</el-radio-button>
                    <el-radio-button value="left">Left-hand</el-radio-button>
                  </el-radio-group>
                </fieldset>
                <fieldset>
                  <legend class="label">Tightening a screw …</legend>
                  <el-radio-group v-model="form.tightening_lowers" aria-label="What tightening does">
                    <el-radio-button :value="true">lowers that corner (usual)</el-radio-button>
                    <el-radio-button :value="false">raises it</el-radio-button>
                  </el-radio-group>
                </fieldset>
              </div>
            </FoldPart>
          </template>
          <PadFields
            v-else-if="screwCount === 'pads'"
            v-model="more.pads"
            :errors="errors"
            :bed="bed"
            @moved="ownPlaces = true"
          />
          <p v-else class="quiet">Finchwort will show map and shape, but has nothing to turn.</p>
        </section>
        <KeepOffFields v-model="more.keep_off" :errors="errors" :bed="bed" />
        <MoreFields v-model="more" :errors="errors" :screws="form.screws" />
        <TroubleNote v-if="trouble">{{ trouble }}</TroubleNote>
        <div class="row">
          <el-button type="primary" size="large" native-type="submit" :loading="saving.busy">{{
            id === null ? 'Save this printer' : 'Save the set-up'
          }}</el-button>
          <el-button size="large" @click="router.back()">Cancel</el-button>
        </div>
      </div>
      <aside class="sheet stack picture">
        <h2>As you see it from above</h2>
        <ReliefMap
          v-if="bed"
          :bed="bed"
          :screws="placed"
          :pads="pads"
          :reach="reach"
          :notes="notes"
          movable
          label="The plate, the printable area and what carries it"
          @move="move"
        />
        <p class="small quiet">
          Outer shape: the plate. Inner frame: the printable area.
          {{ more.pads.length ? 'Ovals: the pads.' : 'Squares: the screws.' }} Drag them to their places, or
          use the arrow keys.{{ reach ? ' Dashed: what the probe reaches.' : ''
          }}{{ bed?.keep_off?.length ? ' Barred: nothing goes there.' : '' }}
        </p>
      </aside>
    </div>
    <el-dialog
      :model-value="theirs !== null"
      title="Changed elsewhere"
      width="min(94vw, 620px)"
      :close-on-click-modal="false"
      @close="theirs = null"
    >
      <div class="stack">
        <p>
          This set-up was changed in another tab or by someone else since you opened it. Nothing was
          overwritten. This differs:
        </p>
        <table class="plain-table">
          <thead>
            <tr>
              <th></th>
              <th>Yours</th>
              <th>Theirs</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="row in differences" :key="row.label">
              <th scope="row">{{ row.label }}</th>
              <td>{{ row.mine }}</td>
              <td>{{ row.theirs }}</td>
            </tr>
          </tbody>
        </table>
        <p v-if="differences.length === 0">Nothing; both are the same.</p>
        <div class="row">
          <el-button type="primary" @click="useTheirs">Take theirs</el-button>
          <el-button @click="keepMine">Save mine instead</el-button>
        </div>
      </div>
    </el-dialog>
  </el-form>
  <WaitBox v-else says="Opening …" kind="page" />
</template>

<style scoped>
.columns {
  display: grid;
  grid-template-columns: minmax(0, 6fr) minmax(0, 5fr);
  gap: 18px;
  align-items: start;
}
@media (max-width: 640px) {
  .pair {
    align-items: end;
  }
}
.picture {
  position: sticky;
  top: 12px;
}
.inner {
  padding-top: 8px;
}
input[aria-invalid='true'] {
  border: 2px solid var(--bad);
}
.screws td,
.screws th {
  padding: 3px;
}
@media (max-width: 800px) {
  .columns {
    grid-template-columns: 1fr;
  }
  .picture {
    position: static;
  }
}
</style>
