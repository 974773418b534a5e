<script setup lang="ts">
// What a visit hangs on, to be changed: surface, material, temperatures, first layer; what the table says of the pair.
import { computed, reactive, ref, watch } from 'vue'
import { ask, call } from '@/api/ask'
import { useSending } from '@/api/change'
import type { Schemas } from '@/api/client'
import { useLatest } from '@/api/latest'
import { useKnowledge } from '@/api/shown'
import { degrees, mm, parseNumber } from '@/shell/format'

const props = defineProps<{ visit: Schemas['VisitOut'] }>()
const open = defineModel<boolean>({ required: true })
const form = reactive({ surface: '', surface_kind: '', material: '', bed: '', nozzle: '', layer: '' })
const trouble = ref('')
const version = ref(0)
const theirs = ref<Schemas['VisitOut'] | null>(null)
const said = (v: Schemas['VisitOut']): string =>
  [
    v.surface || 'no surface named',
    v.material || 'no material named',
    `bed ${degrees(v.bed_temperature)}`,
    `nozzle ${degrees(v.nozzle_temperature)}`,
    `first layer ${mm(v.first_layer)}`,
  ].join(', ')
function take(visit: Schemas['VisitOut']): void {
  Object.assign(form, {
    surface: visit.surface,
    surface_kind: visit.surface_kind,
    material: visit.material,
    bed: visit.bed_temperature?.toString() ?? '',
    nozzle: visit.nozzle_temperature?.toString() ?? '',
    layer: visit.first_layer.toFixed(2),
  })
  version.value = visit.version
}
const { data: known } = useKnowledge()
// what this printer has first, then every kind there is
const owned = computed(() =>
  props.visit.printer.surfaces.map((s) => ({
    name: s.name,
    kind: s.kind,
    more: [
      s.kind_name,
      ...(s.prints_since_wash ? [`${s.prints_since_wash} prints since washed`] : []),
      ...(s.condition === 'worn' || s.condition === 'damaged' ? [s.condition] : []),
    ].join(', '),
  })),
)
const free = ref(false)
const choice = computed(() =>
  free.value
    ? 'free'
    : owned.value.some((s) => s.name === form.surface)
      ? `own:${form.surface}`
      : form.surface_kind
        ? `kind:${form.surface_kind}`
        : form.surface
          ? 'free'
          : '',
)
function chooseSurface(value: string): void {
  const [how, name] = [value.slice(0, value.indexOf(':')), value.slice(value.indexOf(':') + 1)]
  if (how === 'own')
    Object.assign(form, { surface: name, surface_kind: owned.value.find((s) => s.name === name)?.kind ?? '' })
  else if (how === 'kind')
    Object.assign(form, {
      surface: known.value?.surfaces.find((s) => s.key === name)?.name ?? '',
      surface_kind: name,
    })
  else Object.assign(form, { surface: value === 'free' ? form.surface : '', surface_kind: '' })
  free.value = value === 'free'
}
const materials = computed(() => {
  const used = props.visit.printer.materials
  return [
    ...used,
    ...(known.value?.materials.map((m) => m.name) ?? []).filter((name) => !used.includes(name)),
  ]
})
const suit = ref<Schemas['SuitOut'] | null>(null)
const asking = useLatest()
const suits = () =>
  asking.run(() =>
    ask('/api/suit', {
      surface: form.surface_kind,
      material: form.material,
      bed: parseNumber(form.bed) ?? undefined,
      nozzle: parseNumber(form.nozzle) ?? undefined,
    }),
  )
/** Ask what the table says; temperatures follow the choice, unless they were just typed. */
async function consult(follow: boolean): Promise<void> {
  let found = await suits()
  if (found && follow && (found.bed !== null || found.nozzle !== null)) {
    if (found.bed !== null) form.bed = String(found.bed)
    if (found.nozzle !== null) form.nozzle = String(found.nozzle)
    found = await suits()
  }
  // the set-up can be saved without the table
  if (found || asking.trouble) suit.value = found ?? null
}
watch(
  () => [form.surface_kind, form.material],
  () => open.value && !taking && void consult(true),
)
watch(
  () => [form.bed, form.nozzle],
  () => open.value && void consult(false),
)
let taking = false
watch(open, (now) => now && edit(), { immediate: true })
function edit(): void {
  taking = true
  free.value = false
  take(props.visit)
  setTimeout(() => (taking = false))
  trouble.value = ''
  theirs.value = null
  void consult(false)
}
const sending = useSending()
async function save(): Promise<void> {
  trouble.value = ''
  const number = (text: string): number | null | undefined =>
    text.trim() ? (parseNumber(text) ?? undefined) : null
  const [bed, nozzle, layer] = [number(form.bed), number(form.nozzle), parseNumber(form.layer)]
  if (bed === undefined || nozzle === undefined || layer === null) {
    trouble.value = 'Temperatures and the first layer must be numbers.'
    return
  }
  const at = { visit_id: props.visit.id }
  const body = {
    version: version.value,
    surface: form.surface,
    surface_kind: form.surface_kind,
    material: form.material,
    bed_temperature: bed,
    nozzle_temperature: nozzle,
    first_layer: layer,
  }
  const saved = await sending.run(
    () => call('patch', '/api/visits/{visit_id}', at, body),
    'Saved. The judgements follow it.',
  )
  if (saved) open.value = false
  else if (sending.stale) theirs.value = await ask('/api/visits/{visit_id}', at)
  else trouble.value = sending.trouble
}
function useTheirs(): void {
  take(theirs.value!)
  theirs.value = null
}
async function keepMine(): Promise<void> {
  version.value = theirs.value!.version
  theirs.value = null
  await save()
}
</script>

<template>
  <el-dialog v-model="open" title="What this visit hangs on" width="min(94vw, 480px)">
    <el-form v-if="!theirs" class="stack" @submit.prevent="save">
      <div>
        <ChoiceField id="surface" label="Surface" :model-value="choice" @update:model-value="chooseSurface">
          <el-option value="" label="not named" />
          <el-option-group v-if="owned.length" label="Yours">
            <el-option
              v-for="s in owned"
              :key="s.name"
              :value="`own:${s.name}`"
              :label="`${s.name} (${s.more})`"
            />
          </el-option-group>
          <el-option-group label="Kinds">
            <el-option v-for="s in known?.surfaces" :key="s.key" :value="`kind:${s.key}`" :label="s.name" />
          </el-option-group>
          <el-option value="free" label="another one …" />
        </ChoiceField>
        <el-input
          v-if="choice === 'free'"
          id="surface-own"
          v-model="form.surface"
          class="own"
          maxlength="80"
          aria-label="Name of the surface"
          placeholder="what it is"
        />
      </div>
      <SuggestField
        id="material"
        v-model="form.material"
        label="Material"
        maxlength="80"
        placeholder="choose or type"
        :known="materials.map((value) => ({ value }))"
      />
      <div class="pair">
        <NumberField id="bed-t" v-model="form.bed" label="Bed" unit="°C" />
        <NumberField id="nozzle-t" v-model="form.nozzle" label="Nozzle" unit="°C" />
        <NumberField id="layer" v-model="form.layer" label="First layer" unit="mm" />
      </div>
      <div v-if="suit" aria-live="polite" class="stack">
        <p
          v-for="one in suit.remarks"
          :key="one"
          :class="suit.state === 'unsuitable' ? 'trouble' : 'caution'"
        >
          {{ one }}
        </p>
        <p v-if="suit.bed_low !== null && !suit.remarks.length" class="small">
          Usual: bed {{ suit.bed_low }} to {{ suit.bed_high }} °C, nozzle {{ suit.nozzle_low }} to
          {{ suit.nozzle_high }} °C.
        </p>
      </div>
      <p class="small quiet">Measure at printing temperature: a metal plate moves as it heats.</p>
      <TroubleNote v-if="trouble">{{ trouble }}</TroubleNote>
      <div class="row">
        <el-button type="primary" native-type="submit" :loading="sending.busy">Save</el-button
        ><el-button @click="open = false">Cancel</el-button>
      </div>
    </el-form>
    <div v-else class="stack" role="alert">
      <p>This was changed in another tab or by someone else since you opened it. Nothing was overwritten.</p>
      <p><b>Theirs:</b> {{ said(theirs) }}</p>
      <div class="row">
        <el-button type="primary" @click="useTheirs">Take theirs</el-button
        ><el-button @click="keepMine">Save mine instead</el-button>
      </div>
    </div>
  </el-dialog>
</template>

<style scoped>
.own {
  margin-top: 6px;
}
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr 1fr;
  gap: 12px;
}
</style>
