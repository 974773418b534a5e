<script setup lang="ts">
// Where on this bed the print, or one part of it, would hold: what to move in the slicer, and the map of all places.
import { computed, ref, watch } from 'vue'
import { useApiQuery } from '@/api/ask'
import { sentence, type Schemas } from '@/api/client'
import PlaceMap from '@/bed/PlaceMap.vue'
import { palette } from '@/bed/palette'

const props = defineProps<{ file: Schemas['FileOut']; stage: Schemas['Stage'] }>()
const part = ref(-1)
const angle = ref(0)
const { data, error } = useApiQuery(
  '/api/files/{file_id}/places',
  () => ({
    file_id: props.file.id,
    stage: props.stage,
    ...(part.value >= 0 ? { part: part.value } : {}),
  }),
  { keep: true },
)
watch(data, (found) => (angle.value = found?.best?.angle ?? found?.turns[0]?.angle ?? 0))
const TURNS: Record<number, string> = {
  0: 'as it is',
  90: 'a quarter left',
  180: 'half round',
  270: 'a quarter right',
}
/** Round parts may stand at any angle. */
const turned = (angle: number): string =>
  TURNS[angle] ?? (angle < 180 ? `${angle}° left` : `${360 - angle}° right`)
const KEY = [100, 75, 50, 25, 0]
const label = computed(() => `Where it would hold: ${data.value?.sentence ?? ''}`)
</script>

<template>
  <section v-if="file.bed_shape" class="sheet stack" aria-label="Where it would hold">
    <h2>Where it would hold</h2>
    <div class="row spread">
      <ChoiceField v-if="file.parts.length > 1" id="file-move" v-model="part" label="Move" class="move">
        <el-option :value="-1" label="the whole print" />
        <el-option v-for="(one, i) in file.parts" :key="one.name" :value="i" :label="one.name" />
      </ChoiceField>
      <el-radio-group v-if="data && data.turns.length > 1" v-model="angle" size="small" aria-label="Turned">
        <el-radio-button v-for="one in data.turns" :key="one.angle" :value="one.angle">{{
          turned(one.angle)
        }}</el-radio-button>
      </el-radio-group>
    </div>
    <TroubleNote v-if="error">{{ sentence(error) }}</TroubleNote>
    <template v-else-if="data">
      <p class="say" role="status">{{ data.sentence }}</p>
      <PlaceMap :bed="file.bed_shape" :found="data" :angle="angle" :label="label" />
      <p class="row small quiet">
        <span v-for="step in KEY" :key="step" class="key"
          ><span class="swatch" :style="{ background: palette.tint(-(1 - step / 100)) }" />{{ step }} %</span
        >
        <span>of it good with its middle there</span>
      </p>
      <p class="small quiet">
        Dashed: where the file has it. Move it in the slicer and slice again, or take a moved copy; the purge
        line stays where it is.
      </p>
    </template>
    <WaitBox v-else says="Trying every place …" kind="map" />
  </section>
</template>

<style scoped>
.move {
  width: 14em;
}
.say {
  font-size: 1.1rem;
}
.key {
  display: inline-flex;
  gap: 5px;
  align-items: center;
}
.swatch {
  display: inline-block;
  width: 18px;
  height: 12px;
  border: 1px solid var(--line-2);
}
</style>
