<script setup lang="ts">
// A part and its settings: brim, speed, width, fan, warmth, and what a failed print costs.
import { useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed } from 'vue'
import { give, http, sentence } from '@/api/client'
import { useKnowledge } from '@/api/queries'
import { useDraft } from '@/shell/draft'
import { parseNumber } from '@/shell/format'

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
const { data, error } = useQuery({
  queryKey: ['part', wish],
  queryFn: () => give(http.GET('/api/part', { params: { query: wish.value } })),
  enabled: computed(
    () => wish.value.width !== undefined && wish.value.depth !== undefined && wish.value.height !== undefined,
  ),
  placeholderData: (before) => before,
})
const FIELDS = [
  ['width', 'Foot, width, mm'],
  ['depth', 'Foot, depth, mm'],
  ['height', 'Height, mm'],
  ['speed', 'First layer, mm/s'],
  ['line', 'Line width, mm'],
  ['nozzle', 'Nozzle, mm'],
  ['fan', 'Part fan, first layer, %'],
  ['overlap', 'Overlap fill and wall, %'],
  ['bed', 'Bed, °C'],
  ['hot', 'Nozzle, °C'],
  ['grams', 'Part, g'],
  ['price', 'Price of a kilogram'],
] as const
const SIGNS = { good: '●', mind: '◆', change: '▲' } as const
</script>

<template>
  <div class="stack">
    <p class="small"><RouterLink to="/cases">Cases</RouterLink></p>
    <h1>Check a part and its settings</h1>
    <div class="worktable even">
      <section class="sheet stack" aria-label="The part">
        <div class="grid">
          <div v-for="[k, label] in FIELDS" :key="k">
            <label class="label" :for="`part-${k}`">{{ label }}</label><input
              :id="`part-${k}`"
              v-model="part[k]"
              class="field"
              inputmode="decimal"
            />
          </div>
          <div>
            <label class="label" for="part-corners">Corners</label
            ><select id="part-corners" v-model="more.corners" class="field">
              <option value="round">round</option>
              <option value="sharp">sharp</option>
            </select>
          </div>
          <div>
            <label class="label" for="part-material">Material</label
            ><select id="part-material" v-model="more.material" class="field">
              <option v-for="m in known?.materials" :key="m.name" :value="m.name">{{ m.name }}</option>
            </select>
          </div>
          <div>
            <label class="label" for="part-surface">Surface</label
            ><select id="part-surface" v-model="more.surface" class="field">
              <option value="">not said</option>
              <option v-for="s in known?.surfaces" :key="s.key" :value="s.key">{{ s.name }}</option>
            </select>
          </div>
          <label class="check"
            ><input v-model="more.long_lines" type="checkbox" /> Long straight bottom lines</label
          >
        </div>
      </section>
      <section class="sheet stack" aria-label="What it comes to" aria-live="polite">
        <p v-if="error" class="trouble" role="alert">{{ sentence(error) }}</p>
        <template v-else-if="data">
          <h2>{{ data.brim_width ? `Brim: ${data.brim_width.toFixed(0)} mm` : 'No brim' }}</h2>
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
.check {
  display: flex;
  gap: 8px;
  align-items: center;
  min-height: 44px;
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
