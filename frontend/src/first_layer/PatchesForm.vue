<script setup lang="ts">
// Printed patches, measured with calipers: where each lies, and what the calipers show.
import { useLocalStorage } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { send, sendKeyed } from '@/api/change'
import type { Schemas } from '@/api/client'
import { useDraft } from '@/shell/draft'
import { newKey, parseNumber } from '@/shell/format'
import TestPrintPanel from './TestPrintPanel.vue'

const props = defineProps<{
  visit: Schemas['VisitOut']
  place: Schemas['PaperIn']['place']
  /** Where the printed file lays them. */
  spots: Schemas['OffsetOut']['patches']
}>()
const emit = defineEmits<{ work: [ask: () => Promise<Schemas['NewOffsetOut']> | string] }>()
const caliper = useLocalStorage('finchwort-caliper-zero', '')
const spots = computed(() =>
  props.spots.toSorted((a, b) => Number(b.name === 'middle') - Number(a.name === 'middle')),
)
const { kept: patches, clear } = useDraft<{ spot: string; text: string }[]>(`patches-${props.visit.id}`, [
  { spot: 'middle', text: '' },
])
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
const byPatches = (): void =>
  emit('work', () => {
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
          place: props.place,
          caliper_zero: zero,
        },
      ),
    )
  })
defineExpose({ clear })
</script>

<template>
  <el-form class="stack" @submit.prevent="byPatches">
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
@media (max-width: 520px) {
  .patch {
    grid-template-columns: 1fr 1fr;
  }
}
</style>
