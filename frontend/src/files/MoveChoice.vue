<script setup lang="ts">
// How far the whole print, or one part of it, is moved, and turned: by hand, or to the best place on this bed.
import { computed, watch } from 'vue'
import { useApiQuery } from '@/api/ask'
import { type Schemas } from '@/api/client'

const props = defineProps<{ file: Schemas['FileOut'] }>()
const dx = defineModel<string>('dx', { required: true })
const dy = defineModel<string>('dy', { required: true })
const turn = defineModel<number>('turn', { required: true })
/** Which part; -1 for the whole print. */
const part = defineModel<number>('part', { required: true })
const TURNS = ['not turned', 'a quarter left', 'half round', 'a quarter right']
const alone = computed(() => part.value >= 0)
const { data } = useApiQuery(
  '/api/files/{file_id}/places',
  () =>
    props.file.stages.length
      ? {
          file_id: props.file.id,
          stage: 'measured' as const,
          ...(alone.value ? { part: part.value } : {}),
        }
      : null,
  { keep: true },
)
/** A copy turns the whole print by quarters, and a part not at all. */
const best = computed(() => {
  const found = data.value?.worth ? data.value.best : null
  return found && found.angle % (alone.value ? 360 : 90) === 0 ? found : null
})
watch(part, () => {
  if (alone.value) turn.value = 0
})
function takeBest(): void {
  if (!best.value) return
  dx.value = String(best.value.dx)
  dy.value = String(best.value.dy)
  turn.value = best.value.angle / 90
}
</script>

<template>
  <p>
    {{
      alone
        ? 'This part alone is moved; all else stays where it is.'
        : 'The whole print is moved on the bed; what the file does before and after it stays where it is.'
    }}
    <el-button v-if="best" text @click="takeBest">Take the best place</el-button>
  </p>
  <p v-if="data" class="small quiet">{{ data.sentence }}</p>
  <div class="fields">
    <ChoiceField v-if="file.parts.length > 1" id="copy-part" v-model="part" label="What is moved">
      <el-option :value="-1" label="the whole print" />
      <el-option v-for="(one, i) in file.parts" :key="one.name" :value="i" :label="one.name" />
    </ChoiceField>
    <NumberField id="copy-dx" v-model="dx" label="To the right" unit="mm" placeholder="0" />
    <NumberField id="copy-dy" v-model="dy" label="To the back" unit="mm" placeholder="0" />
    <ChoiceField v-if="!alone" id="copy-turn" v-model="turn" label="Turned">
      <el-option v-for="(label, i) in TURNS" :key="i" :value="i" :label="label" />
    </ChoiceField>
  </div>
</template>

<style scoped>
.fields {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(130px, 1fr));
  gap: 10px;
  align-items: end;
}
</style>
