<script setup lang="ts">
// Clips and other things on the plate: tip, probe and plastic keep off them.
import type { Schemas } from '@/api/client'
import type { KeepOffText } from './more'

const MOST = 12
const places = defineModel<KeepOffText[]>({ required: true })
const props = defineProps<{ errors: Record<string, string>; bed: Schemas['Bed'] | null }>()
const SIDES = [
  { key: 'left', label: 'from X' },
  { key: 'right', label: 'to X' },
  { key: 'front', label: 'from Y' },
  { key: 'back', label: 'to Y' },
  { key: 'height', label: 'high' },
] as const

function add(): void {
  let number = places.value.length + 1
  while (places.value.some((one) => one.name === `clip ${number}`)) number += 1
  // a clip in the middle of the front edge, to be moved from there
  const { x_min, x_max, y_min } = props.bed ?? { x_min: 0, x_max: 220, y_min: 0 }
  const middle = Math.round((x_min + x_max) / 2)
  places.value.push({
    name: `clip ${number}`,
    left: String(middle - 10),
    right: String(middle + 10),
    front: String(y_min),
    back: String(y_min + 8),
    height: '5',
  })
}
const wrong = (at: number): string =>
  SIDES.map((side) => props.errors[`keep_off.${at}.${side.key}`]).find(Boolean) ?? ''
</script>

<template>
  <section class="sheet stack" aria-label="Places to keep off">
    <h2>In the way on the plate</h2>
    <p class="quiet small">
      Clips, a cable, a lug: with 8 mm around them they are kept out of every place to measure, every touch of
      the probe and every test print. The maps show them barred.
    </p>
    <div v-for="(one, i) in places" :key="i" class="place">
      <el-input v-model="one.name" maxlength="40" class="name" :aria-label="`Name of place ${i + 1}`" />
      <el-input
        v-for="side in SIDES"
        :key="side.key"
        v-model="one[side.key]"
        inputmode="decimal"
        :aria-label="`${one.name || 'Place'}, ${side.label}, mm`"
        :aria-invalid="!!errors[`keep_off.${i}.${side.key}`]"
        ><template #prefix>{{ side.label }}</template></el-input
      >
      <el-button text :aria-label="`Remove ${one.name || 'this place'}`" @click="places.splice(i, 1)"
        >Remove</el-button
      >
      <p v-if="wrong(i)" class="wrong">{{ wrong(i) }}</p>
    </div>
    <p class="row">
      <el-button :disabled="places.length >= MOST" @click="add">Add a clip or another place</el-button
      ><span v-if="places.length" class="small quiet">All in mm.</span>
    </p>
    <CautionNote v-if="places.length">
      Homing is the machine’s own: it knows nothing of clips. See that it does not home or park over one, and
      hand on the power switch the first time.
    </CautionNote>
  </section>
</template>

<style scoped>
.place {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(104px, 1fr));
  gap: 8px;
  align-items: center;
  border-bottom: 1px dashed var(--line-2);
  padding-bottom: 8px;
}
.place :deep(.el-input__prefix) {
  margin-right: 6px;
}
.place .el-button {
  justify-self: start;
  padding-left: 0;
}
.name {
  grid-column: 1 / -1;
}
</style>
