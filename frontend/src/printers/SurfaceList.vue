<script setup lang="ts">
// The surfaces one owns for a machine: prints and coats counted, washed.
import { send } from '@/api/change'
import type { Schemas } from '@/api/client'
import { count } from '@/shell/format'
import { attempt } from '@/shell/undo'

const props = defineProps<{ printer: Schemas['PrinterOut'] }>()
const SAID = {
  printed: 'One more print on it.',
  washed: 'Washed: prints and coats begin at 0.',
  coated: 'One more coat on it.',
} as const
const use = (name: string, action: Schemas['SurfaceUse']['action']): Promise<void> =>
  attempt(
    () =>
      send(
        'post',
        '/api/printers/{printer_id}/surfaces/use',
        { printer_id: props.printer.id },
        { name, action },
      ),
    SAID[action],
  )
</script>

<template>
  <div class="stack">
    <h3>Surfaces</h3>
    <ul class="visits">
      <li v-for="s in printer.surfaces" :key="s.name" class="stack surface">
        <div class="row spread">
          <b>{{ s.name }}</b><span class="small quiet"
            >{{ s.kind_name }}{{ s.thickness ? `, ${s.thickness} mm` : '' }}, {{ s.condition }}</span
          >
        </div>
        <div class="row spread small">
          <span
            >{{ count(s.prints_since_wash, 'print') }} since washed{{
              s.coats ? `, ${count(s.coats, 'coat')} of adhesive` : ''
            }}</span
          >
          <span class="row">
            <el-button
              size="small"
              :aria-label="`One more print on ${s.name}`"
              @click="use(s.name, 'printed')"
              >Printed</el-button
            >
            <el-button size="small" :aria-label="`${s.name} was washed`" @click="use(s.name, 'washed')"
              >Washed</el-button
            >
            <el-button size="small" :aria-label="`One more coat on ${s.name}`" @click="use(s.name, 'coated')"
              >Coated</el-button
            >
          </span>
        </div>
      </li>
    </ul>
  </div>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  padding: 8px 0;
  border-top: 1px solid var(--line);
}
.surface {
  gap: 4px;
}
</style>
