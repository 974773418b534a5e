<script setup lang="ts">
// A test print on the bed: where plastic goes, or where the tip walks and stops. Patches can be judged on it.
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import { boxAround, provideCanvas } from './canvas'
import BedRect from './layers/BedRect.vue'
import PatchLayer from './layers/PatchLayer.vue'
import PlateLayer from './layers/PlateLayer.vue'
import SideLayer from './layers/SideLayer.vue'
import StrokeLayer from './layers/StrokeLayer.vue'
import { FONT, palette } from './palette'
import type { Patch } from './patch'

const props = withDefaults(
  defineProps<{
    bed: Schemas['Bed']
    patches: Patch[]
    prime?: Schemas['XY'][]
    walk?: Schemas['XY'][]
    label: string
    pickable?: boolean
  }>(),
  { prime: () => [], walk: () => [] },
)
defineEmits<{ pick: [number: number]; key: [number: number, key: string] }>()
const svg = ref<SVGSVGElement | null>(null)
const box = computed(() => boxAround(props.bed, [], 0.06))
const { ready, unit } = provideCanvas(
  svg,
  () => props.bed,
  box,
  () => false,
)
</script>

<template>
  <svg
    ref="svg"
    class="print"
    :role="pickable ? 'group' : 'img'"
    :aria-label="label"
    :viewBox="`0 0 ${box.width.toFixed(1)} ${box.height.toFixed(1)}`"
    :font-family="FONT"
  >
    <template v-if="ready">
      <PlateLayer />
      <BedRect
        :area="bed"
        fill="none"
        :stroke="palette.faint"
        :stroke-width="unit"
        :stroke-dasharray="`${unit * 5} ${unit * 4}`"
      />
      <StrokeLayer :points="prime" wide />
      <StrokeLayer :points="walk" :dashed="patches.some((p) => p.size === 0)" />
      <PatchLayer
        :patches="patches"
        :pickable="pickable"
        @pick="$emit('pick', $event)"
        @key="(number, key) => $emit('key', number, key)"
      />
      <SideLayer />
    </template>
  </svg>
</template>

<style scoped>
.print {
  display: block;
  width: 100%;
  max-height: 420px;
}
</style>
