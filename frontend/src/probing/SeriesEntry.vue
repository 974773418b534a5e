<script setup lang="ts">
// Readings of one place, typed one after the other; with times when they count.
import { computed, ref } from 'vue'
import { figure, parseNumber } from '@/shell/format'
import type { Series } from './tests'

const props = defineProps<{ timed: boolean; most: number; what: string }>()
const series = defineModel<Series>({ required: true })
const text = ref('')
const wrong = ref('')
const field = ref<HTMLInputElement | null>(null)
const values = computed(() => series.value.texts)

function add(): void {
  const found = text.value.split(/[\s;]+/).filter(Boolean)
  const numbers = found.map(parseNumber)
  const bad = found[numbers.indexOf(null)]
  if (!found.length) return
  if (bad !== undefined) {
    wrong.value = `“${bad}” is not a number. Type for instance −0.05 or 0,12.`
    return
  }
  if (props.timed && found.length > 1) {
    wrong.value = 'One at a time here: each gets the time of its moment.'
    return
  }
  if (values.value.length + found.length > props.most) {
    wrong.value = `${props.most} readings are the most here.`
    return
  }
  wrong.value = ''
  const now = Date.now()
  series.value.began ??= now
  for (const one of found) {
    series.value.texts.push(one)
    series.value.times.push(
      Math.max((now - series.value.began) / 1000, (series.value.times.at(-1) ?? -0.1) + 0.1),
    )
  }
  text.value = ''
  field.value?.focus()
}
function drop(index: number): void {
  series.value.texts.splice(index, 1)
  series.value.times.splice(index, 1)
  if (!series.value.texts.length) series.value.began = null
}
</script>

<template>
  <el-form class="stack" @submit.prevent="add">
    <label class="label" for="series">{{ what }} {{ values.length + 1 }}</label>
    <div class="row nowrap">
      <el-input
        id="series"
        ref="field"
        v-model="text"
        inputmode="decimal"
        class="big"
        placeholder="0.00"
        :aria-invalid="!!wrong"
      />
      <span>mm</span>
      <el-button type="primary" size="large" native-type="submit">Add</el-button>
    </div>
    <p v-if="wrong" class="wrong" role="alert">{{ wrong }}</p>
    <p class="small quiet">
      {{
        timed
          ? 'Enter takes it with the time of that moment.'
          : 'Enter adds it; several at once are taken too.'
      }}
    </p>
    <ol v-if="values.length" class="values">
      <li v-for="(one, i) in values" :key="i">
        <span class="number">{{ figure(parseNumber(one) ?? 0, true, 3) }}</span>
        <span v-if="timed" class="small quiet number">{{ (series.times[i]! / 60).toFixed(1) }} min</span>
        <el-button text size="small" :aria-label="`Remove reading ${i + 1}`" @click="drop(i)">×</el-button>
      </li>
    </ol>
  </el-form>
</template>

<style scoped>
.nowrap {
  flex-wrap: nowrap;
}
.big {
  font-size: 1.5rem;
  font-weight: 650;
  min-height: 52px;
}
.values {
  list-style: none;
  margin: 0;
  padding: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
.values li {
  display: flex;
  align-items: center;
  gap: 6px;
  border: 1px solid var(--line);
  border-radius: var(--round);
  padding-left: 8px;
}
.values .el-button {
  min-width: 32px;
  min-height: 32px;
}
</style>
