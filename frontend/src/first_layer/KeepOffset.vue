<script setup lang="ts">
// After turning, on a machine whose zero stays where it was: the number that keeps the first layer, one tap.
import { ref } from 'vue'
import { sentence, sendKeyed, type Schemas } from '@/api/client'
import { offsets } from '@/api/offsets'
import { useChange } from '@/api/queries'
import { figure, newKey } from '@/shell/format'
import { tell } from '@/shell/undo'

const props = defineProps<{ visit: Schemas['VisitOut']; keep: Schemas['KeptOffset'] }>()
const key = ref(newKey())
const trouble = ref('')
const record = useChange((body: Schemas['OffsetIn']) => offsets.record(props.visit.printer.id, body))
const remove = useChange(offsets.remove)
async function stored(): Promise<void> {
  trouble.value = ''
  try {
    const made = await sendKeyed(key, (client_key) =>
      record.mutateAsync({
        client_key,
        parts: props.keep.parts,
        reason: 'turned',
        visit_id: props.visit.id,
        found: { rise: props.keep.rise },
      }),
    )
    key.value = newKey()
    tell('Written down.', () => remove.mutateAsync(made.id))
  } catch (e) {
    trouble.value = sentence(e)
  }
}
</script>

<template>
  <div class="keep stack">
    <p>{{ keep.sentence }}</p>
    <TroubleNote v-if="trouble">{{ trouble }}</TroubleNote>
    <p>
      <el-button :loading="record.isPending.value" @click="stored"
        >I typed in {{ figure(keep.value, true) }}</el-button
      >
    </p>
  </div>
</template>

<style scoped>
.keep {
  border-left: 4px solid var(--line-2);
  padding-left: 12px;
}
</style>
