<script setup lang="ts">
// "I print this now": what is known is filled in; one tap starts the clock of looks.
import { computed, reactive, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useApiQuery } from '@/api/ask'
import { useSubmit } from '@/api/change'
import { sentence } from '@/api/client'
import { useKnowledge } from '@/api/shown'
import { parseNumber } from '@/shell/format'
import { useTrail } from '@/shell/trail'

const route = useRoute()
const router = useRouter()
const id = computed(() => Number(route.params.id))
const numberOf = (name: string): number | null => Number(route.query[name]) || null
const wish = computed(() => ({
  printer_id: id.value,
  ...(numberOf('file') ? { file: numberOf('file')! } : {}),
  ...(numberOf('visit') ? { visit: numberOf('visit')! } : {}),
  ...(route.query.test ? { test: true } : {}),
}))
const { data: form, error } = useApiQuery('/api/printers/{printer_id}/print-form', wish)
const { data: known } = useKnowledge()
const typed = reactive({
  name: '',
  surface: '',
  material: '',
  bed: '',
  nozzle: '',
  layer: '',
  minutes: '',
  grams: '',
  price: '',
  ago: '',
})
const text = (value: number | null): string => (value === null ? '' : String(value))
const filled = ref(false)
watch(
  form,
  (f) => {
    if (!f || filled.value) return
    filled.value = true
    Object.assign(typed, {
      name: f.name,
      surface: f.surfaces.some((one) => one.name === f.surface)
        ? `own:${f.surface}`
        : f.surface_kind
          ? `kind:${f.surface_kind}`
          : '',
      material: f.material,
      bed: text(f.bed_temperature),
      nozzle: text(f.nozzle_temperature),
      layer: text(f.first_layer),
      minutes: f.minutes === null ? '' : String(Math.round(f.minutes)),
      grams: text(f.grams),
      price: text(f.price),
    })
  },
  { immediate: true },
)
const surface = computed(() => {
  const [how, name] = [typed.surface.slice(0, typed.surface.indexOf(':')), typed.surface.replace(/^\w+:/, '')]
  if (how === 'own')
    return {
      surface: name,
      surface_kind: form.value?.surfaces.find((one) => one.name === name)?.kind ?? '',
    }
  const kind = known.value?.surfaces.find((one) => one.key === name)
  return { surface: kind?.name ?? '', surface_kind: kind?.key ?? '' }
})
const begin = useSubmit('post', '/api/printers/{printer_id}/prints', () => ({ printer_id: id.value }))
const FIGURES = ['bed', 'nozzle', 'layer', 'minutes', 'grams', 'price', 'ago'] as const
async function start(): Promise<void> {
  if (FIGURES.some((name) => typed[name].trim() && parseNumber(typed[name]) === null))
    return void begin.lacks('One of the figures is no number. Nothing you filled in is lost.')
  const layer = parseNumber(typed.layer)
  const made = await begin.submit({
    ...(numberOf('file') ? { file_id: numberOf('file') } : {}),
    ...(numberOf('visit') ? { visit_id: numberOf('visit') } : {}),
    ...(route.query.test ? { test: true } : {}),
    name: typed.name,
    ...surface.value,
    material: typed.material,
    bed_temperature: parseNumber(typed.bed),
    nozzle_temperature: parseNumber(typed.nozzle),
    ...(layer === null ? {} : { first_layer: layer }),
    minutes: parseNumber(typed.minutes),
    grams: parseNumber(typed.grams),
    price: parseNumber(typed.price),
    ago: parseNumber(typed.ago) ?? 0,
  } as never)
  if (made) await router.push(`/prints/${made.id}`)
}
useTrail(() => [
  { name: form.value?.printer ?? 'Printer', to: `/printers/${id.value}` },
  { name: 'I print now' },
])
</script>

<template>
  <TroubleNote v-if="error">{{ sentence(error) }}</TroubleNote>
  <el-form v-else-if="form" class="stack begin" @submit.prevent="start">
    <h1>I print now on {{ form.printer }}</h1>
    <div v-if="form.running" class="caution" role="alert">
      {{ form.running_name }} still runs here by the book.
      <RouterLink :to="`/prints/${form.running}`">Tell what came of it</RouterLink>
    </div>
    <section class="sheet stack" aria-label="The print">
      <CautionNote v-for="one in form.notes" :key="one">{{ one }}</CautionNote>
      <TextField
        id="print-name"
        v-model="typed.name"
        label="What is printed"
        maxlength="120"
        placeholder="Nest-box roof"
      />
      <div class="fields">
        <ChoiceField id="print-surface" v-model="typed.surface" label="Surface">
          <el-option value="" label="not said" />
          <el-option-group v-if="form.surfaces.length" label="Of this printer">
            <el-option
              v-for="one in form.surfaces"
              :key="one.name"
              :value="`own:${one.name}`"
              :label="one.name"
            />
          </el-option-group>
          <el-option-group label="Kinds">
            <el-option
              v-for="one in known?.surfaces"
              :key="one.key"
              :value="`kind:${one.key}`"
              :label="one.name"
            />
          </el-option-group>
        </ChoiceField>
        <SuggestField
          id="print-material"
          v-model="typed.material"
          label="Material"
          maxlength="80"
          :known="(known?.materials ?? []).map((one) => ({ value: one.name }))"
        />
        <NumberField id="print-bed" v-model="typed.bed" label="Bed" unit="°C" />
        <NumberField id="print-nozzle" v-model="typed.nozzle" label="Nozzle" unit="°C" />
        <NumberField id="print-layer" v-model="typed.layer" label="First layer" unit="mm" />
        <NumberField id="print-minutes" v-model="typed.minutes" label="It takes about" unit="min" />
        <NumberField id="print-grams" v-model="typed.grams" label="It uses" unit="g" />
        <NumberField id="print-price" v-model="typed.price" label="Price of a kilogram" />
        <NumberField
          id="print-ago"
          v-model="typed.ago"
          label="Started how long ago"
          unit="min"
          placeholder="0"
        />
      </div>
      <TroubleNote v-if="begin.trouble">{{ begin.trouble }}</TroubleNote>
      <p>
        <el-button type="primary" size="large" native-type="submit" :loading="begin.busy"
          >It is started: remind me to look</el-button
        >
      </p>
      <p class="small quiet">
        Nothing is sent to the machine. The print is counted on its surface, and the first look is at the
        first lines.
      </p>
      <CautionNote
        >Nozzle and bed are hot. Stay with the first layer, hand near the switch: if the tip scrapes, stop it
        at once.</CautionNote
      >
    </section>
  </el-form>
  <WaitBox v-else says="Opening …" kind="page" />
</template>

<style scoped>
.begin {
  max-width: 860px;
}
.fields {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(100%, 180px), 1fr));
  gap: 10px 14px;
}
</style>
