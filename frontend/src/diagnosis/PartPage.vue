<script setup lang="ts">
// A part and its settings: brim, speed, width, fan, warmth, and what a failed print costs.
import { refDebounced } from '@vueuse/core'
import { computed } from 'vue'
import { useApiQuery } from '@/api/ask'
import { sentence } from '@/api/client'
import { useKnowledge } from '@/api/shown'
import { useDraft } from '@/shell/draft'
import { parseNumber } from '@/shell/format'
import { useTrail } from '@/shell/trail'

const { kept: part } = useDraft('part', {
  width: '',
  depth: '',
  height: '',
  speed: '',
  line: '',
  nozzle: '0.4',
  fan: '',
  overlap: '',
  bed: '',
  hot: '',
  grams: '',
  price: '',
})
const { kept: more } = useDraft('part-more', {
  corners: 'round' as 'round' | 'sharp',
  material: 'PLA',
  surface: '',
  long_lines: false,
})
const { data: known } = useKnowledge()
const wish = refDebounced(
  computed(() => {
    const numbers = Object.fromEntries(
      Object.entries(part.value)
        .map(([k, v]) => [k, parseNumber(v)])
        .filter(([, v]) => v !== null),
    )
    return { ...numbers, ...more.value } as {
      width: number
      depth: number
      height: number
      corners: 'round' | 'sharp'
    }
  }),
  250,
)
const { data, error } = useApiQuery(
  '/api/part',
  () =>
    wish.value.width === undefined || wish.value.depth === undefined || wish.value.height === undefined
      ? null
      : wish.value,
  { keep: true },
)
const FIELDS = [
  ['width', 'Foot, width', 'mm'],
  ['depth', 'Foot, depth', 'mm'],
  ['height', 'Height', 'mm'],
  ['speed', 'First layer', 'mm/s'],
  ['line', 'Line width', 'mm'],
  ['nozzle', 'Nozzle', 'mm'],
  ['fan', 'Part fan, first layer', '%'],
  ['overlap', 'Overlap fill and wall', '%'],
  ['bed', 'Bed', '°C'],
  ['hot', 'Nozzle', '°C'],
  ['grams', 'Part', 'g'],
  ['price', 'Price of a kilogram', ''],
] as const
const SIGNS = { good: '●', mind: '◆', change: '▲' } as const
useTrail(() => [{ name: 'Cases', to: '/cases' }, { name: 'Check a part' }])
</script>

<template>
  <div class="stack">
    <h1>Check a part and its settings</h1>
    <p>
      All of this stands in the file that your slicer wrote:
      <RouterLink to="/files">drop it, and nothing has to be typed</RouterLink>.
    </p>
    <div class="worktable even">
      <section class="sheet stack" aria-label="The part">
        <div class="grid">
          <NumberField
            v-for="[k, label, unit] in FIELDS"
            :id="`part-${k}`"
            :key="k"
            v-model="part[k]"
            :label="label"
            :unit="unit"
          />
          <ChoiceField id="part-corners" v-model="more.corners" label="Corners">
            <el-option value="round" label="round" />
            <el-option value="sharp" label="sharp" />
          </ChoiceField>
          <ChoiceField id="part-material" v-model="more.material" label="Material">
            <el-option v-for="m in known?.materials" :key="m.name" :value="m.name" :label="m.name" />
          </ChoiceField>
          <ChoiceField id="part-surface" v-model="more.surface" label="Surface">
            <el-option value="" label="not said" />
            <el-option v-for="s in known?.surfaces" :key="s.key" :value="s.key" :label="s.name" />
          </ChoiceField>
          <el-checkbox v-model="more.long_lines">Long straight bottom lines</el-checkbox>
        </div>
      </section>
      <section class="sheet stack" aria-label="What it comes to" aria-live="polite">
        <TroubleNote v-if="error">{{ sentence(error) }}</TroubleNote>
        <template v-else-if="data">
          <h2>
            <TermHint term="brim">{{
              data.brim_width ? `Brim: ${data.brim_width.toFixed(0)} mm` : 'No brim'
            }}</TermHint>
          </h2>
          <p>{{ data.brim }}</p>
          <ul>
            <li v-for="r in data.remarks" :key="r.sentence" :class="r.level">
              <span aria-hidden="true">{{ SIGNS[r.level] }}</span> {{ r.sentence }}
            </li>
          </ul>
          <p v-if="data.cost !== null">
            <b>A failed print costs {{ data.cost.toFixed(2) }}.</b>
          </p>
        </template>
        <p v-else class="quiet">
          Foot and height of the part are enough to begin with; what you leave out is not judged.
        </p>
      </section>
    </div>
  </div>
</template>

<style scoped>
.grid {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(150px, 1fr));
  gap: 10px;
  align-items: end;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  padding: 6px 0;
  border-top: 1px solid var(--line);
}
.good span {
  color: var(--good);
}
.mind span {
  color: var(--mild);
}
.change span {
  color: var(--bad);
}
</style>
