<script setup lang="ts">
// What was understood of pasted readings, and putting it right.
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import { count, mm } from '@/shell/format'
import { SIDES, type Draft } from './draft'
import ReadingKind from './ReadingKind.vue'

const props = defineProps<{ visit: Schemas['VisitOut']; found: Schemas['Preview']; busy: boolean }>()
defineEmits<{ store: [] }>()
const draft = defineModel<Draft>({ required: true })
const printer = computed(() => props.visit.printer)
// what is being typed stays as it is, whatever the server answers meanwhile
const typing = ref<{ index: number; text: string } | null>(null)
function setBound(index: number, value: string): void {
  draft.value.bounds = SIDES.map((_, i) => (i === index ? value : boundText(i)))
  typing.value = null
}
const boundText = (index: number): string =>
  typing.value?.index === index
    ? typing.value.text
    : (draft.value.bounds?.[index] ?? String(props.found.bounds?.[SIDES[index]!] ?? ''))
const BOUNDS = ['Left X', 'Front Y', 'Right X', 'Back Y']
</script>

<template>
  <div class="sheet stack">
    <h3>This was understood</h3>
    <p>
      {{ count(found.x.length, 'reading')
      }}{{ found.layout !== 'points' ? `, a grid of ${found.columns} × ${found.rows}` : '' }},
      {{ mm(found.figures.spread) }} from highest to lowest.
    </p>
    <ul v-if="found.assumptions.length" class="small">
      <li v-for="one in found.assumptions" :key="one">{{ one }}</li>
    </ul>
    <CautionNote v-for="one in found.aside" :key="one.place">
      {{ one.sentence }} You can put it back on the map.
    </CautionNote>
    <TroubleNote v-if="found.doubt">
      {{ found.doubt }} <RouterLink :to="`/printers/${printer.id}/edit`">To the set-up</RouterLink>
    </TroubleNote>
    <p><b>Look at the corners on the map.</b> If they are not where they belong, put it right here:</p>
    <div class="row">
      <el-button
        :type="draft.flip_y ? 'primary' : undefined"
        :aria-pressed="draft.flip_y"
        @click="draft.flip_y = !draft.flip_y"
        >Swap front and back</el-button
      >
      <el-button
        :type="draft.flip_x ? 'primary' : undefined"
        :aria-pressed="draft.flip_x"
        @click="draft.flip_x = !draft.flip_x"
        >Swap left and right</el-button
      >
    </div>
    <div class="row">
      <ReadingKind
        :values="found.values"
        :unit="found.unit"
        @values="draft.values = $event"
        @unit="draft.unit = $event"
      />
      <el-radio-group
        v-if="!draft.file"
        :model-value="found.layout"
        aria-label="Layout"
        @update:model-value="draft.layout = $event as Draft['layout']"
      >
        <el-radio-button value="points">Points</el-radio-button
        ><el-radio-button value="grid">Grid</el-radio-button>
        <el-radio-button value="indices">Column, row</el-radio-button
        ><el-radio-button value="list">List</el-radio-button>
      </el-radio-group>
    </div>
    <div v-if="found.layout !== 'points'" class="row">
      <el-button
        v-if="found.layout !== 'indices'"
        :type="draft.serpentine ? 'primary' : undefined"
        :aria-pressed="draft.serpentine"
        @click="draft.serpentine = !draft.serpentine"
        >Rows walked to and fro</el-button
      >
      <NumberField
        v-if="found.layout === 'list'"
        v-model="draft.columns"
        label="Values in a row"
        class="narrow"
        inputmode="numeric"
      />
    </div>
    <fieldset v-if="found.layout !== 'points'">
      <legend class="label">Outer readings lie at, mm</legend>
      <div class="four">
        <NumberField
          v-for="(name, i) in BOUNDS"
          :key="name"
          :label="name"
          :model-value="boundText(i)"
          @update:model-value="typing = { index: i, text: $event }"
          @change="setBound(i, $event)"
        />
      </div>
    </fieldset>
    <el-button type="primary" size="large" :loading="busy" @click="$emit('store')"
      >Store these {{ found.x.length }} readings</el-button
    >
  </div>
</template>

<style scoped>
.narrow {
  width: 5em;
  display: inline-block;
}
.four {
  display: grid;
  grid-template-columns: repeat(4, 1fr);
  gap: 8px;
}
ul {
  margin: 0;
  padding-left: 20px;
}
@media (max-width: 800px) {
  .four {
    grid-template-columns: 1fr 1fr;
  }
}
</style>
