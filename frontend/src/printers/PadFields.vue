<script setup lang="ts">
// Supports without screws: up to nine, each with a name and a place.
import type { Schemas } from '@/api/client'
import type { More } from './more'

const MOST = 9
const pads = defineModel<More['pads']>({ required: true })
const props = defineProps<{ errors: Record<string, string>; bed: Schemas['Bed'] | null }>()
const emit = defineEmits<{ moved: [] }>()

function add(): void {
  let number = pads.value.length + 1
  while (pads.value.some((pad) => pad.name === `pad ${number}`)) number += 1
  const { x_min, x_max, y_min, y_max } = props.bed?.plate ?? { x_min: 0, x_max: 200, y_min: 0, y_max: 200 }
  pads.value.push({
    name: `pad ${number}`,
    x: String(Math.round((x_min + x_max) / 2)),
    y: String(Math.round((y_min + y_max) / 2)),
    foils: [],
  })
  emit('moved')
}
function remove(at: number): void {
  pads.value.splice(at, 1)
  emit('moved')
}
</script>

<template>
  <div class="stack">
    <p class="quiet small">
      Where the plate rests, three to nine places. Drag them in the picture, or type where they are. Foil
      between pad and plate takes a tilt out.
    </p>
    <ul class="pads">
      <li v-for="(pad, i) in pads" :key="i">
        <el-input v-model="pad.name" maxlength="40" :aria-label="`Name of pad ${i + 1}`" />
        <el-input
          v-model="pad.x"
          inputmode="decimal"
          :aria-label="`X of ${pad.name}`"
          :aria-invalid="!!errors[`pads.${i}.x`]"
          @input="emit('moved')"
          ><template #prefix>x</template></el-input
        >
        <el-input
          v-model="pad.y"
          inputmode="decimal"
          :aria-label="`Y of ${pad.name}`"
          :aria-invalid="!!errors[`pads.${i}.y`]"
          @input="emit('moved')"
          ><template #prefix>y</template></el-input
        >
        <el-button text :disabled="pads.length <= 3" :aria-label="`Remove ${pad.name}`" @click="remove(i)"
          >Remove</el-button
        >
        <span v-if="pad.foils.length" class="small quiet">{{ pad.foils.join(' + ') }} mm lies there</span>
        <span v-if="errors[`pads.${i}.x`] || errors[`pads.${i}.y`]" class="wrong">{{
          errors[`pads.${i}.x`] || errors[`pads.${i}.y`]
        }}</span>
      </li>
    </ul>
    <p class="row">
      <el-button :disabled="pads.length >= MOST" @click="add">Add a pad</el-button
      ><span v-if="pads.length >= MOST" class="small quiet">Nine are the most.</span>
    </p>
  </div>
</template>

<style scoped>
.pads {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 8px;
}
.pads li {
  display: grid;
  grid-template-columns: minmax(0, 2fr) minmax(0, 1fr) minmax(0, 1fr) auto;
  gap: 8px;
  align-items: center;
}
.pads :deep(.el-input__prefix) {
  margin-right: 6px;
}
.pads .small,
.pads .wrong {
  grid-column: 1 / -1;
}
</style>
