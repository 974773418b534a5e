<script setup lang="ts">
// The first layer along the toolpath on this bed: as measured, after the plan, with compensation, at another height.
import { computed, ref, shallowRef, watch } from 'vue'
import { ask } from '@/api/ask'
import { takeBytes } from '@/api/bytes'
import { sentence, type Schemas } from '@/api/client'
import { useFollowing } from '@/api/latest'
import LineMap from '@/bed/LineMap.vue'
import { readLines, type Lines } from '@/bed/lines'
import { BAND_TINT, palette } from '@/bed/palette'
import { asDay, mm, query } from '@/shell/format'
import PartShares from './PartShares.vue'

const props = defineProps<{ file: Schemas['FileOut'] }>()
const STAGES = {
  measured: 'As measured',
  plan: 'After the plan',
  compensated: 'With compensation',
  bent: 'Bent copy',
} as const
const ROLES = {
  wall: 'walls',
  fill: 'fill',
  brim: 'brim',
  support: 'support',
  skirt: 'skirt',
  purge: 'purge line',
}
const view = defineModel<Schemas['Stage'] | 'bent'>('view', { required: true })
const shift = ref(0)
const found = ref<Schemas['FileForecastOut'] | null>(null)
const lines = shallowRef<Lines | null>(null)
const trouble = ref('')
const hidden = ref<string[]>([])
const looked = ref('')
const can = computed(() => props.file.stages.length > 0)
const views = computed(() => [...props.file.stages, 'bent' as const])
const asked = computed(() =>
  view.value === 'bent' ? { stage: 'measured' as const, bent: true } : { stage: view.value },
)
const following = useFollowing(
  async () =>
    can.value
      ? ask('/api/files/{file_id}/forecast', {
          file_id: props.file.id,
          ...asked.value,
          shift: shift.value,
        })
      : null,
  (answer) => (found.value = answer),
)
watch(
  [() => props.file.id, () => props.file.version, view],
  async () => {
    if (!views.value.includes(view.value)) view.value = 'measured'
    if (!can.value) return
    void following.follow()
    try {
      lines.value = readLines(await takeBytes(`/api/files/${props.file.id}/lines?${query(asked.value)}`))
      trouble.value = ''
    } catch (problem) {
      trouble.value = sentence(problem)
    }
  },
  { immediate: true },
)
watch(shift, () => void following.follow())
const roles = computed(() => props.file.facts.roles.map((one) => one.role))
const ORDER = Object.keys(ROLES)
const shown = computed(() =>
  ORDER.reduce((bits, role, i) => (hidden.value.includes(role) ? bits : bits | (1 << i)), 0),
)
// a part is looked at by the box around its lines
const near = computed(() => {
  const [at, all] = [props.file.parts.findIndex((one) => one.name === looked.value), lines.value]
  if (at < 0 || !all) return undefined
  const box = { x_min: Infinity, y_min: Infinity, x_max: -Infinity, y_max: -Infinity }
  for (let i = 0; i < all.count; i++) {
    if (all.part[i] !== at) continue
    for (const end of [0, 2]) {
      const [x, y] = [all.ends[4 * i + end]!, all.ends[4 * i + end + 1]!]
      box.x_min = Math.min(box.x_min, x)
      box.x_max = Math.max(box.x_max, x)
      box.y_min = Math.min(box.y_min, y)
      box.y_max = Math.max(box.y_max, y)
    }
  }
  return box
})
const way = (value: number): string =>
  Math.abs(value) < 0.005
    ? 'right in the middle'
    : `${mm(Math.abs(value))} ${value < 0 ? 'closer' : 'farther'} than right in the middle`
const percent = (share: number): string =>
  share > 0 && share < 0.005 ? 'under 1 %' : `${Math.round(100 * share)} %`
const legend = computed(
  () => found.value?.bands.toReversed().filter((one) => one.share > 0 || one.band === 'good') ?? [],
)
</script>

<template>
  <!-- eslint-disable vue/no-restricted-html-elements --
  the key of a drawing, read with it -->
  <section class="sheet stack" aria-label="First layer along its lines">
    <h2>The first layer on this bed</h2>
    <template v-if="!can || !file.bed_shape">
      <p v-if="!file.printer_id">Say above which printer it is for: the forecast needs its bed.</p>
      <p v-else>
        The forecast needs readings of this bed.
        <RouterLink :to="`/printers/${file.printer_id}`">Measure it</RouterLink>
      </p>
    </template>
    <TroubleNote v-else-if="trouble || following.trouble">{{ trouble || following.trouble }}</TroubleNote>
    <template v-else>
      <el-radio-group v-model="view" aria-label="Bed">
        <el-radio-button v-for="one in views" :key="one" :value="one">{{ STAGES[one] }}</el-radio-button>
      </el-radio-group>
      <div v-if="found" :class="found.touches ? 'trouble' : ''" :role="found.touches ? 'alert' : undefined">
        <p v-for="(one, i) in found.sentences" :key="one" :class="{ say: i === 0 }">{{ one }}</p>
        <p class="quiet small">By the readings of {{ asDay(found.measured_at) }}.</p>
      </div>
      <WaitBox v-if="!lines" says="Laying the first layer in thought …" kind="map" />
      <LineMap
        v-else
        :bed="file.bed_shape"
        :lines="lines"
        :shift="shift"
        :shown="shown"
        :near="near"
        :mesh="found?.mesh"
        :worst="found && found.worst.band !== 'good' ? found.worst : undefined"
        :label="`First layer: ${found?.sentences.join(' ') ?? ''}`"
      />
      <p v-if="found?.mesh" class="small quiet">
        Dotted: as far as the mesh reaches. Beyond it the heights of its rim are carried on.
      </p>
      <div class="row spread">
        <ChoiceField id="file-look" v-model="looked" label="Look at" class="look">
          <el-option value="" label="the whole bed" />
          <el-option v-for="one in file.parts" :key="one.name" :value="one.name" :label="one.name" />
        </ChoiceField>
        <el-checkbox-group
          :model-value="roles.filter((one) => !hidden.includes(one))"
          aria-label="Lines that are drawn"
          @update:model-value="(on) => (hidden = roles.filter((one) => !on.includes(one)))"
        >
          <el-checkbox v-for="one in roles" :key="one" :value="one">{{ ROLES[one] }}</el-checkbox>
        </el-checkbox-group>
      </div>
      <div>
        <p id="file-shift" class="label">Tip: {{ way(shift) }}</p>
        <el-slider
          v-model="shift"
          :min="-0.3"
          :max="0.3"
          :step="0.01"
          :show-tooltip="false"
          aria-label="Tip closer or farther"
          :format-value-text="(value: number) => way(value)"
        />
        <div class="row spread small quiet"><span>closer</span><span>farther</span></div>
      </div>
      <table v-if="found" class="plain-table legend">
        <tbody>
          <tr v-for="one in legend" :key="one.band">
            <td><span class="swatch" :style="{ background: palette.tint(BAND_TINT[one.band]) }" /></td>
            <th scope="row">{{ one.words }}</th>
            <td class="right">{{ percent(one.share) }}</td>
          </tr>
        </tbody>
      </table>
      <PartShares v-if="found" :parts="found.parts" />
    </template>
  </section>
</template>

<style scoped>
.look {
  width: 12em;
}
.say {
  font-size: 1.15rem;
}
.legend th {
  font-weight: 400;
}
.legend .right {
  white-space: nowrap;
}
.swatch {
  display: inline-block;
  width: 26px;
  height: 16px;
  border: 1px solid var(--line-2);
  vertical-align: middle;
}
</style>
