<script setup lang="ts">
// After turning, on a machine whose zero stays where it was: the number that keeps the first layer, one tap.
import { send, useSubmit } from '@/api/change'
import type { Schemas } from '@/api/client'
import { figure } from '@/shell/format'

const props = defineProps<{ visit: Schemas['VisitOut']; keep: Schemas['KeptOffset'] }>()
const record = useSubmit(
  'post',
  '/api/printers/{printer_id}/offset',
  () => ({ printer_id: props.visit.printer.id }),
  {
    said: 'Written down.',
    undo: (made) => send('delete', '/api/offsets/{offset_id}', { offset_id: made.id }),
  },
)
const stored = () =>
  record.submit({
    parts: props.keep.parts,
    reason: 'turned',
    visit_id: props.visit.id,
    found: { rise: props.keep.rise },
  })
</script>

<template>
  <div class="keep stack">
    <p>{{ keep.sentence }}</p>
    <TroubleNote v-if="record.trouble">{{ record.trouble }}</TroubleNote>
    <p>
      <el-button :loading="record.busy" @click="stored">I typed in {{ figure(keep.value, true) }}</el-button>
    </p>
  </div>
</template>

<style scoped>
.keep {
  border-left: 4px solid var(--line-2);
  padding-left: 12px;
}
</style>
