<script setup lang="ts">
// What foil lies in the drawer.
import { ref, watch } from 'vue'
import { sentence, type Schemas } from '@/api/client'
import { levelling, useFoils } from '@/api/levelling'
import { useChange } from '@/api/queries'
import { parseNumber } from '@/shell/format'
import { tell } from '@/shell/undo'

const { data, error } = useFoils()
const rows = ref<{ thickness: string; count: string }[]>([])
const trouble = ref('')
watch(data, (d) => d && (rows.value = d.foils.map((f) => ({ thickness: String(f.thickness), count: String(f.count) }))), { immediate: true })
const put = useChange((body: Schemas['FoilsIn']) => levelling.putFoils(body))
async function save(): Promise<void> {
  trouble.value = ''
  const foils = rows.value.filter((r) => r.thickness.trim() || r.count.trim()).map((r) => ({ thickness: parseNumber(r.thickness), count: parseNumber(r.count) }))
  if (foils.some((f) => f.thickness === null || f.count === null || !Number.isInteger(f.count))) return void (trouble.value = 'Thickness in mm, and whole pieces: 0.05 and 6, for instance.')
  try {
    const before = data.value!.foils
    const now = await put.mutateAsync({ foils: foils as Schemas['FoilIn'][], version: data.value!.version })
    tell('Counted.', () => put.mutateAsync({ foils: before, version: now.version }))
  } catch (e) {
    trouble.value = sentence(e)
  }
}
</script>

<template>
  <form class="stack" @submit.prevent="save">
    <p v-if="error" class="trouble" role="alert">{{ sentence(error) }}</p>
    <p class="small quiet">Pieces lying loose; those under the pads are known from the records.</p>
    <div v-for="(row, i) in rows" :key="i" class="foil">
      <div><label class="visually-hidden" :for="`foil-${i}`">Thickness of foil {{ i + 1 }}, mm</label><input :id="`foil-${i}`" v-model="row.thickness" class="field" inputmode="decimal" /></div>
      <span>mm ×</span>
      <div><label class="visually-hidden" :for="`foil-n-${i}`">Pieces of foil {{ i + 1 }}</label><input :id="`foil-n-${i}`" v-model="row.count" class="field" inputmode="numeric" /></div>
      <el-button text size="small" :aria-label="`Remove foil ${row.thickness}`" @click="rows.splice(i, 1)">Remove</el-button>
    </div>
    <p v-if="trouble" class="wrong" role="alert">{{ trouble }}</p>
    <p class="row"><el-button :disabled="rows.length > 7" @click="rows.push({ thickness: '', count: '' })">Add a thickness</el-button><el-button native-type="submit" :loading="put.isPending.value">Save the count</el-button></p>
  </form>
</template>

<style scoped>
.foil {
  display: grid;
  grid-template-columns: 6em auto 5em auto;
  gap: 8px;
  align-items: center;
  justify-content: start;
}
</style>
