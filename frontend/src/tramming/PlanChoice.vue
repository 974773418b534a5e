<script setup lang="ts">
// How the plan is made: what stays, and which plane counts as the tilt.
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import type { Wish } from '@/api/queries'
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
function point(at: number, value: string): void {
  const points = [...used.value]
  points[at] = Number(value)
  wish.value = { ...wish.value, reference: 'three_points', points: points.join(',') }
}
</script>

<template>
  <div class="stack">
    <div>
      <label class="label" for="hold">Plan with</label>
      <select
        id="hold"
        :value="wish.hold"
        class="field"
        @change="wish = { ...wish, hold: ($event.target as HTMLSelectElement).value }"
      >
        <option v-for="h in plan.holds" :key="h.value" :value="h.value">{{ h.label }}</option>
      </select>
      <p class="small quiet">{{ effect }}</p>
    </div>
    <fieldset>
      <legend class="label">The plane that counts as the tilt</legend>
      <label
        v-for="d in plan.datums"
        :key="d.reference"
        class="plane"
        :class="{ chosen: d.reference === wish.reference }"
      >
        <input
          type="radio"
          name="plane"
          :value="d.reference"
          :checked="d.reference === wish.reference"
          @change="choose(d.reference)"
        />
        <span
          ><b>{{ d.label }}</b>
          <span class="quiet small"
            >leaves {{ mm(d.peak_to_valley) }} highest to lowest, {{ mm(d.rms) }} RMS</span
          ><br /><span v-if="d.reference === wish.reference" class="small quiet">{{ d.hint }}</span></span
        >
      </label>
      <div v-if="three && wish.reference === 'three_points' && x.length" class="three">
        <select
          v-for="i in 3"
          :key="i"
          class="field"
          :aria-label="`Reading ${i} of the plane`"
          :value="used[i - 1]"
          @change="point(i - 1, ($event.target as HTMLSelectElement).value)"
        >
          <option v-for="(name, j) in names" :key="j" :value="j">{{ name }}</option>
        </select>
      </div>
    </fieldset>
  </div>
</template>

<style scoped>
.plane {
  display: flex;
  gap: 10px;
  align-items: baseline;
  padding: 5px 8px;
  border-left: 4px solid transparent;
}
.plane.chosen {
  border-color: var(--accent);
  background: var(--sheet-2);
}
.plane input {
  width: 18px;
  height: 18px;
  flex: none;
  align-self: center;
}
.three {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 8px;
  margin-top: 8px;
}
</style>
