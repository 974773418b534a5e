<script setup lang="ts">
// What stands where, what it adds up to, and how it came about.
import { computed, ref, watch } from 'vue'
import { takeAway, useSubmit } from '@/api/change'
import type { Schemas } from '@/api/client'
import { asDay, asTime, figure, mm, parseNumber } from '@/shell/format'
import type { Column } from '@/components/rows'

const props = defineProps<{ visit: Schemas['VisitOut']; offset: Schemas['OffsetOut'] }>()
const typed = ref<Record<string, string>>({})
watch(
  () => props.offset,
  (o) => (typed.value = Object.fromEntries(o.parts.map((p) => [p.place, o.known ? figure(p.value) : '']))),
  { immediate: true },
)
const record = useSubmit(
  'post',
  '/api/printers/{printer_id}/offset',
  () => ({ printer_id: props.visit.printer.id }),
  { said: 'Written down.' },
)
const changed = computed(
  () =>
    props.offset.parts.some((p) => (parseNumber(typed.value[p.place] ?? '') ?? NaN) !== p.value) ||
    !props.offset.known,
)
async function write(): Promise<void> {
  const parts: Record<string, number> = {}
  for (const part of props.offset.parts) {
    const text = typed.value[part.place] ?? ''
    const value = text.trim() === '' ? 0 : parseNumber(text)
    if (value === null)
      return void record.lacks(`Write the offset in ${part.label} as a number in mm, like −1.25.`)
    parts[part.place] = value
  }
  await record.submit({
    parts,
    reason: 'typed',
    visit_id: props.visit.ended_at ? null : props.visit.id,
  })
}
const TAGS = { P: 'common practice', D: 'follows from geometry', S: 'a standard', M: 'from memory' } as const
const takeBack = (id: number): Promise<void> =>
  takeAway('/api/offsets/{offset_id}', { offset_id: id }, 'Taken back.')
type Made = Schemas['OffsetOut']['history'][number]
const COLUMNS: Column<Made>[] = [
  {
    key: 'when',
    title: 'When',
    says: (one) => `${asDay(one.made_at)}, ${asTime(one.made_at)}`,
    sorts: (one) => one.made_at,
  },
  { key: 'how', title: 'How', says: (one) => (one.note ? `${one.words}: ${one.note}` : one.words) },
  {
    key: 'total',
    title: 'mm',
    says: (one) => figure(one.total, true),
    sorts: (one) => one.total,
    right: true,
  },
  {
    key: 'change',
    title: 'Change',
    says: (one) =>
      one.closer === null || Math.abs(one.closer) < 0.0005
        ? ''
        : `${mm(Math.abs(one.closer))} ${one.closer > 0 ? 'closer' : 'farther'}`,
    sorts: (one) => one.closer ?? 0,
  },
  { key: 'back', title: '' },
]
</script>

<template>
  <section class="sheet stack" aria-label="The offset now">
    <h2 v-if="offset.known"><TermHint term="z_offset">Z offset</TermHint> {{ mm(offset.total, true) }}</h2>
    <h2 v-else>No offset is written down yet</h2>
    <p v-if="offset.known">
      {{ offset.sentence.replace(/ mm/g, '\u00a0mm') }}
      <span class="quiet">More {{ offset.closer_is }} is closer.</span>
    </p>
    <p v-else>
      Look it up in the machine and write down what stands there. More {{ offset.closer_is }} is closer.
    </p>
    <TroubleNote v-if="offset.doubled">{{ offset.doubled }}</TroubleNote>
    <div v-if="offset.outdated.length" class="caution">
      <b>Check it before you print.</b>
      <ul>
        <li v-for="one in offset.outdated" :key="one">{{ one }}</li>
      </ul>
    </div>
    <section v-if="offset.trims.length" class="stack today" aria-label="For today">
      <h3>For what is on the printer today</h3>
      <ul>
        <li v-for="one in offset.trims" :key="one.sentence">
          {{ one.sentence }} <span class="quiet small">({{ TAGS[one.tag] }})</span>
        </li>
      </ul>
      <p v-if="offset.trim_total">
        <b>{{ offset.trim_total }}</b>
      </p>
      <p v-if="offset.trims.some((one) => one.closer)" class="quiet small">
        Begin there, and let a patch decide.
      </p>
    </section>
    <el-form class="stack" @submit.prevent="write">
      <div v-for="part in offset.parts" :key="part.place" class="part">
        <label :for="`part-${part.place}`">In {{ part.label }}, mm</label>
        <el-input
          :id="`part-${part.place}`"
          v-model="typed[part.place]"
          inputmode="text"
          placeholder="0.00"
        />
      </div>
      <TroubleNote v-if="record.trouble">{{ record.trouble }}</TroubleNote>
      <p>
        <el-button native-type="submit" :disabled="!changed" :loading="record.busy"
          >This is what stands there</el-button
        >
      </p>
    </el-form>
    <FoldPart v-if="offset.history.length" title="How it came about" open>
      <DataTable
        :rows="offset.history"
        :columns="COLUMNS"
        row-key="id"
        :name="`offsets-${visit.printer.name}`"
      >
        <template #how="{ row }"
          >{{ row.words }}<span v-if="row.note" class="quiet">: {{ row.note }}</span></template
        >
        <template #back="{ row }"
          ><el-button
            text
            size="small"
            :aria-label="`Take back ${figure(row.total, true)}`"
            @click="takeBack(row.id)"
            >Take back</el-button
          ></template
        >
      </DataTable>
    </FoldPart>
  </section>
</template>

<style scoped>
.part {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 8em;
  gap: 10px;
  align-items: center;
}
.today {
  border-left: 4px solid var(--accent);
  padding-left: 12px;
}
ul {
  margin: 4px 0 0;
  padding-left: 20px;
}
.fold {
  overflow-x: auto;
}
</style>
