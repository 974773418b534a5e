<script setup lang="ts">
// Surfaces and materials, with what this workshop found; cleaning and adhesives side by side.
import { computed, ref } from 'vue'
import { useApiQuery } from '@/api/ask'
import { send, takeAway, useSubmit } from '@/api/change'
import { sentence } from '@/api/client'
import { parseNumber } from '@/shell/format'
// the page is this table, so it does not come after it
import DataTable from '@/components/DataRows.vue'
import type { Column } from '@/components/rows'
import { useTrail } from '@/shell/trail'

const { data, error } = useApiQuery('/api/table')
const material = ref('PLA')
const at = computed(() => data.value?.materials.indexOf(material.value) ?? 0)
const own = ref({ surface: '', low: '', high: '', note: '' })
const add = useSubmit('post', '/api/table/own', () => ({}), {
  said: 'Written down; it counts before the table from now on.',
  undo: (made) => send('delete', '/api/table/own/{pair_id}', { pair_id: made.id }),
})
async function write(): Promise<void> {
  const [low, high] = [parseNumber(own.value.low), parseNumber(own.value.high)]
  if (low === null || high === null) return void add.lacks('Write the bed temperatures in °C, from and to.')
  const { surface, note } = own.value
  if (await add.submit({ surface, material: material.value, low, high, note }))
    own.value = { surface: '', low: '', high: '', note: '' }
}
const drop = (id: number) => takeAway('/api/table/own/{pair_id}', { pair_id: id }, 'Taken out.')
const mine = (surface: string) =>
  data.value?.own.filter((o) => o.surface === surface && o.material === material.value) ?? []
const rows = computed(() => data.value?.surfaces.map((s) => ({ ...s, pair: s.pairs[at.value]! })) ?? [])
useTrail(() => [{ name: 'Cases', to: '/cases' }, { name: 'Surfaces and materials' }])
type Row = (typeof rows.value)[number]
const bed = ({ pair }: Row): string =>
  pair.bed ? `${pair.bed[0]} to ${pair.bed[1]} °C` : pair.bonds ? 'bonds too well' : 'unsuitable'
const COLUMNS: Column<Row>[] = [
  { key: 'surface', title: 'Surface', says: (row) => row.name },
  { key: 'bed', title: 'Bed', says: bed, sorts: (row) => row.pair.bed?.[0] ?? 1000 },
  { key: 'between', title: 'Between', says: ({ pair }) => (pair.suits ? pair.need || 'nothing' : '') },
  {
    key: 'here',
    title: 'In this workshop',
    says: (row) =>
      [...mine(row.key).map((o) => `${o.low} to ${o.high} °C ${o.note}`), ...row.pair.own].join('; '),
  },
]
</script>

<template>
  <TroubleNote v-if="error">{{ sentence(error) }}</TroubleNote>
  <div v-else-if="data" class="stack">
    <div class="row spread">
      <h1>Surfaces and materials</h1>
      <el-radio-group v-model="material" aria-label="Material"
        ><el-radio-button v-for="m in data.materials" :key="m" :value="m">{{
          m
        }}</el-radio-button></el-radio-group
      >
    </div>
    <section class="sheet stack wide" aria-label="Surfaces">
      <p>
        <b>{{ material }}</b>: nozzle {{ data.nozzles[at]![0] }} to {{ data.nozzles[at]![1] }} °C.
        <span class="quiet"
          >Usual ranges, common practice and in part from memory; the maker’s own come first.</span
        >
      </p>
      <DataTable :rows="rows" :columns="COLUMNS" row-key="key" :name="`surfaces-${material}`">
        <template #surface="{ row }"
          ><b>{{ row.name }}</b></template
        >
        <template #bed="{ row }"
          ><span :class="{ range: row.pair.bed }">{{ bed(row) }}</span></template
        >
        <template #here="{ row }">
          <div v-for="o in mine(row.key)" :key="o.id">
            <b>{{ o.low }} to {{ o.high }} °C</b> {{ o.note }}
            <el-button text size="small" :aria-label="`Take out ${o.low} to ${o.high} °C`" @click="drop(o.id)"
              >Take out</el-button
            >
          </div>
          <div v-for="o in row.pair.own" :key="o">{{ o }}</div>
        </template>
      </DataTable>
      <FoldPart title="Add what holds here">
        <el-form class="row" @submit.prevent="write">
          <ChoiceField v-model="own.surface" label="Surface" unnamed>
            <el-option value="" disabled label="Surface" />
            <el-option v-for="r in rows" :key="r.key" :value="r.key" :label="r.name" />
          </ChoiceField>
          <label>Bed from <NumberField v-model="own.low" label="Bed from, °C" unnamed class="short" /></label
          ><label
            >to
            <NumberField v-model="own.high" label="Bed to, °C" unnamed class="short" />
            °C</label
          >
          <el-input v-model="own.note" maxlength="120" placeholder="Note" aria-label="Note" />
          <el-button native-type="submit" :disabled="!own.surface" :loading="add.busy"
            >Write down for {{ material }}</el-button
          >
        </el-form>
        <TroubleNote v-if="add.trouble">{{ add.trouble }}</TroubleNote>
      </FoldPart>
    </section>
    <div class="worktable even">
      <section class="sheet stack" aria-label="Cleaning">
        <h2>Cleaning</h2>
        <p class="small">
          In this order: alcohol, then soap, then refresh the surface. Never touch the print area afterwards.
        </p>
        <div v-for="s in data.cleaning" :key="s.name" class="school">
          <b>{{ s.name }}</b>
          <p class="small">{{ s.when }}</p>
          <p class="small quiet">{{ s.mind }}</p>
        </div>
      </section>
      <section class="sheet stack" aria-label="Adhesives">
        <h2>Adhesives</h2>
        <p class="small">Too much of it, or an old coat, is itself a cause of failure.</p>
        <div v-for="s in data.adhesives" :key="s.name" class="school">
          <b>{{ s.name }}</b>
          <p class="small">{{ s.when }}</p>
          <p class="small quiet">{{ s.mind }}</p>
        </div>
      </section>
    </div>
    <CautionNote>
      Solvents and sprays: ventilate, keep them off hot parts and away from flames; no acetone on PEI or
      painted parts. Blades: cut away from your hand. Glass can burst: goggles.
    </CautionNote>
  </div>
  <WaitBox v-else says="Opening …" kind="page" />
</template>

<style scoped>
.wide {
  overflow-x: auto;
}
.short {
  width: 5em;
}
.range {
  white-space: nowrap;
}
@media (max-width: 520px) {
  .wide th,
  .wide td {
    padding-left: 4px;
    padding-right: 4px;
  }
}
.school {
  border-top: 1px solid var(--line);
  padding-top: 8px;
}
</style>
