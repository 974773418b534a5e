<script setup lang="ts">
// How the plan is made: what stays, and which plane counts as the tilt.
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import type { Wish } from '@/api/shown'
import { mm } from '@/shell/format'

const props = defineProps<{ plan: Schemas['PlanOut']; x: number[]; y: number[] }>()
const wish = defineModel<Wish>({ required: true })
const effect = computed(() => props.plan.holds.find((h) => h.value === wish.value.hold)?.effect ?? '')
const three = computed(() => props.plan.datums.find((d) => d.reference === 'three_points') ?? null)
const names = computed(() => props.x.map((x, i) => `x ${x.toFixed(0)}, y ${props.y[i]!.toFixed(0)}`))
function choose(reference: Wish['reference']): void {
  wish.value = { hold: wish.value.hold, reference }
}
// those chosen, also when no plan can be made from them
const used = computed(() => wish.value.points?.split(',').map(Number) ?? three.value?.used ?? [])
function point(at: number, value: number): void {
  const points = [...used.value]
  points[at] = value
  wish.value = { ...wish.value, reference: 'three_points', points: points.join(',') }
}
</script>

<template>
  <div class="stack">
    <div>
      <ChoiceField
        id="hold"
        label="Plan with"
        :model-value="wish.hold"
        @update:model-value="wish = { ...wish, hold: $event }"
      >
        <el-option v-for="h in plan.holds" :key="h.value" :value="h.value" :label="h.label" />
      </ChoiceField>
      <p class="small quiet">{{ effect }}</p>
    </div>
    <fieldset>
      <legend class="label">
        <TermHint term="least_squares">The plane that counts as the tilt</TermHint>
      </legend>
      <el-radio-group
        :model-value="wish.reference"
        class="planes"
        aria-label="The plane that counts as the tilt"
        @update:model-value="choose($event as Wish['reference'])"
      >
        <el-radio
          v-for="d in plan.datums"
          :key="d.reference"
          :value="d.reference"
          class="plane"
          :class="{ chosen: d.reference === wish.reference }"
          ><b>{{ d.label }}</b
          >{{ ' '
          }}<span class="quiet small"
            >leaves {{ mm(d.peak_to_valley) }} highest to lowest, {{ mm(d.rms) }} RMS</span
          ><br /><span v-if="d.reference === wish.reference" class="small quiet">{{ d.hint }}</span></el-radio
        >
      </el-radio-group>
      <div v-if="three && wish.reference === 'three_points' && x.length" class="three">
        <ChoiceField
          v-for="i in 3"
          :key="i"
          :label="`Reading ${i} of the plane`"
          unnamed
          :model-value="used[i - 1]"
          @update:model-value="point(i - 1, $event)"
        >
          <el-option v-for="(name, j) in names" :key="j" :value="j" :label="name" />
        </ChoiceField>
      </div>
    </fieldset>
  </div>
</template>

<style scoped>
.planes {
  display: block;
}
.plane {
  display: flex;
  height: auto;
  margin: 0;
  white-space: normal;
  padding: 5px 8px;
  border-left: 4px solid transparent;
}
.plane.chosen {
  border-color: var(--accent);
  background: var(--sheet-2);
}
.three {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 8px;
  margin-top: 8px;
}
</style>
