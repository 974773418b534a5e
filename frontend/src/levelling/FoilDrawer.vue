<script setup lang="ts">
// What foil lies in the drawer: counted pieces, and rolls of which as much is cut and folded as is wanted.
import { ref, watch } from 'vue'
import { ask, call, useApiQuery } from '@/api/ask'
import { changing, useSending } from '@/api/change'
import { sentence, type Schemas } from '@/api/client'
import { parseNumber } from '@/shell/format'

interface Row {
  thickness: string
  count: string
  roll: boolean
}
const { data, error } = useApiQuery('/api/foils')
const rows = ref<Row[]>([])
watch(
  data,
  (d) =>
    d &&
    (rows.value = d.foils.map((f) => ({
      thickness: String(f.thickness),
      count: f.roll ? '' : String(f.count),
      roll: f.roll,
    }))),
  { immediate: true },
)
const sending = useSending()
const put = (foils: Schemas['FoilIn'][], version: number) => call('put', '/api/foils', {}, { foils, version })
async function save(): Promise<void> {
  const foils = rows.value
    .filter((r) => r.thickness.trim() || r.count.trim())
    .map((r) => ({
      thickness: parseNumber(r.thickness),
      count: r.roll ? 0 : parseNumber(r.count),
      roll: r.roll,
    }))
  if (foils.some((f) => f.thickness === null || f.count === null || !Number.isInteger(f.count)))
    return void sending.lacks('Thickness in mm, and whole pieces: 0.05 and 6, for instance.')
  const before = data.value!.foils.map(({ thickness, count, roll }) => ({ thickness, count, roll }))
  await sending.run(
    () => put(foils as Schemas['FoilIn'][], data.value!.version),
    'Counted.',
    (now) => changing(() => put(before, now.version)),
  )
}

// several pieces between the jaws are measured better than one
const together = ref('')
const pieces = ref(10)
const roll = ref(false)
const said = ref('')
async function measure(): Promise<void> {
  said.value = ''
  const mm = parseNumber(together.value)
  if (mm === null) return void (said.value = 'Type what the calipers show, in mm.')
  try {
    const found = await ask('/api/foils/measured', { together: mm, pieces: pieces.value })
    said.value = found.sentence
    rows.value.push({
      thickness: String(found.thickness),
      count: roll.value ? '' : String(pieces.value),
      roll: roll.value,
    })
    together.value = ''
  } catch (e) {
    said.value = sentence(e)
  }
}
</script>

<template>
  <el-form class="stack" @submit.prevent="save">
    <TroubleNote v-if="error">{{ sentence(error) }}</TroubleNote>
    <p class="small quiet">
      Pieces lying loose. What you lay is taken off here, what you take out comes back.
    </p>
    <div v-for="(row, i) in rows" :key="i" class="foil">
      <el-input v-model="row.thickness" inputmode="decimal" :aria-label="`Thickness of foil ${i + 1}, mm`"
        ><template #suffix>mm</template></el-input
      >
      <el-input
        v-if="!row.roll"
        v-model="row.count"
        inputmode="numeric"
        :aria-label="`Pieces of foil ${i + 1}`"
        ><template #suffix>pieces</template></el-input
      >
      <span v-else class="small quiet">folded as needed</span>
      <el-checkbox v-model="row.roll" :aria-label="`Foil ${i + 1} comes off a roll`">off a roll</el-checkbox>
      <el-button text size="small" :aria-label="`Remove foil ${row.thickness}`" @click="rows.splice(i, 1)"
        >Remove</el-button
      >
    </div>
    <p v-if="sending.trouble" class="wrong" role="alert">{{ sending.trouble }}</p>
    <p class="row">
      <el-button :disabled="rows.length > 11" @click="rows.push({ thickness: '', count: '', roll: false })"
        >Add a thickness</el-button
      ><el-button native-type="submit" :loading="sending.busy">Save the count</el-button>
    </p>
    <FoldPart title="Measure it, or use kitchen foil">
      <div class="stack">
        <p class="small">
          Press several pieces, or several layers of folded foil, flat together and measure them at once:
          calipers do not show a single one. Kitchen foil is about 0.010 to 0.020 mm a layer, and is folded
          once, twice or three times.
        </p>
        <div class="foil">
          <el-input v-model="together" inputmode="decimal" aria-label="Together, mm" placeholder="together"
            ><template #suffix>mm</template></el-input
          >
          <el-input-number
            v-model="pieces"
            :min="1"
            :max="64"
            aria-label="Pieces or layers measured together"
          />
          <el-checkbox v-model="roll">off a roll</el-checkbox>
          <el-button @click="measure">Add it</el-button>
        </div>
        <p v-if="said" class="small" role="status">{{ said }}</p>
      </div>
    </FoldPart>
  </el-form>
</template>

<style scoped>
.foil {
  display: grid;
  grid-template-columns: 8em 9em auto auto;
  gap: 8px;
  align-items: center;
  justify-content: start;
}
.foil :deep(.el-input-number) {
  width: 100%;
}
@media (max-width: 560px) {
  .foil {
    grid-template-columns: 1fr 1fr;
  }
}
</style>
