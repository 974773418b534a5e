<script setup lang="ts">
// What lies under each pad, put together from the pieces in the drawer or by typing a thickness.
import { parseNumber } from '@/shell/format'
import { computed, ref } from 'vue'
import { useApiQuery } from '@/api/ask'
import type { Schemas } from '@/api/client'

const stacks = defineModel<Schemas['StackIn'][]>({ required: true })
const { data: foils } = useApiQuery('/api/foils')
const pieces = computed(() =>
  (foils.value?.foils ?? []).flatMap((f) =>
    f.pieces.map((size, fold) => ({
      size,
      label: f.roll
        ? `${size} mm kitchen foil${fold ? `, ${2 ** fold} layers` : ''}`
        : `${size} mm (${f.count} in the drawer)`,
    })),
  ),
)
const trouble = ref('')
function add(stack: Schemas['StackIn'], value: string | number): void {
  const size = typeof value === 'number' ? value : parseNumber(value)
  trouble.value = size === null || size < 0.005 || size > 2 ? 'A foil is 0.005 to 2 mm thick.' : ''
  if (!trouble.value) stack.foils = [...stack.foils, size!].sort((a, b) => b - a)
}
</script>

<template>
  <div class="stacks">
    <div v-for="stack in stacks" :key="stack.name" class="one">
      <b>{{ stack.name }}</b>
      <div class="row">
        <el-tag
          v-for="(size, i) in stack.foils"
          :key="i"
          disable-transitions
          closable
          size="large"
          :aria-label="`${size} mm under ${stack.name}`"
          @close="stack.foils = stack.foils.filter((_, at) => at !== i)"
          >{{ size }} mm</el-tag
        >
        <span v-if="!stack.foils.length" class="small quiet">nothing</span>
        <el-select
          class="pick"
          :model-value="''"
          filterable
          allow-create
          default-first-option
          placeholder="add a piece"
          :aria-label="`Add foil under ${stack.name}`"
          @change="add(stack, $event)"
        >
          <el-option v-for="p in pieces" :key="p.label" :value="p.size" :label="p.label" />
        </el-select>
      </div>
    </div>
    <p v-if="trouble" class="wrong" role="alert">{{ trouble }}</p>
    <p class="small quiet">A thickness that is not in the list can be typed.</p>
  </div>
</template>

<style scoped>
.stacks {
  display: grid;
  gap: 10px;
}
.one {
  display: grid;
  grid-template-columns: 8em minmax(0, 1fr);
  gap: 8px;
  align-items: center;
}
.pick {
  width: 190px;
}
@media (max-width: 560px) {
  .one {
    grid-template-columns: 1fr;
  }
}
</style>
