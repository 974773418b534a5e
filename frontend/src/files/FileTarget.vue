<script setup lang="ts">
// Where it is to be printed: what no file says. Asked once, kept with the file.
import { computed, reactive } from 'vue'
import { call } from '@/api/ask'
import { useSending } from '@/api/change'
import { type Schemas } from '@/api/client'
import { useKnowledge, useWorkshop } from '@/api/shown'
import { parseNumber } from '@/shell/format'

const props = defineProps<{ file: Schemas['FileOut'] }>()
const { data: known } = useKnowledge()
const { data: workshop } = useWorkshop()
const typed = reactive({
  printer: props.file.printer_id ?? 0,
  surface: props.file.surface,
  material: props.file.material,
  nozzle: props.file.nozzle_hole === null ? '' : String(props.file.nozzle_hole),
  price: props.file.price === null ? '' : String(props.file.price),
})
const change = useSending()
const card = computed(() => workshop.value?.cards.find((one) => one.printer.id === typed.printer))
async function keep(): Promise<void> {
  const [nozzle, price] = [parseNumber(typed.nozzle), parseNumber(typed.price)]
  if ((typed.nozzle.trim() && nozzle === null) || (typed.price.trim() && price === null)) return
  const body = {
    version: props.file.version,
    printer_id: typed.printer || null,
    surface: typed.surface,
    material: typed.material,
    nozzle,
    price,
  }
  await change.run(() => call('put', '/api/files/{file_id}', { file_id: props.file.id }, body))
}
</script>

<template>
  <section class="sheet stack" aria-label="Where it is to be printed">
    <el-form class="fields" @submit.prevent="keep" @change="keep">
      <ChoiceField id="file-printer" v-model="typed.printer" label="Printer" @update:model-value="keep">
        <el-option :value="0" label="not said" />
        <el-option
          v-for="one in workshop?.cards"
          :key="one.printer.id"
          :value="one.printer.id"
          :label="one.printer.name"
        />
      </ChoiceField>
      <ChoiceField id="file-surface" v-model="typed.surface" label="Surface" @update:model-value="keep">
        <el-option value="" label="not said" />
        <el-option v-for="one in known?.surfaces" :key="one.key" :value="one.key" :label="one.name" />
      </ChoiceField>
      <ChoiceField id="file-material" v-model="typed.material" label="Material" @update:model-value="keep">
        <el-option value="" label="not said" />
        <el-option v-for="one in known?.materials" :key="one.name" :value="one.name" :label="one.name" />
      </ChoiceField>
      <NumberField id="file-nozzle" v-model="typed.nozzle" label="Nozzle" unit="mm" placeholder="0.4" />
      <NumberField id="file-price" v-model="typed.price" label="Price of a kilogram" />
    </el-form>
    <TroubleNote v-if="change.trouble">{{ change.trouble }}</TroubleNote>
    <p v-if="card && file.printer_id && !file.survey_id" class="small quiet">
      {{ card.printer.name }} has no readings yet, so nothing is foretold of its bed.
    </p>
  </section>
</template>

<style scoped>
.fields {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(150px, 1fr));
  gap: 10px;
  align-items: end;
}
</style>
