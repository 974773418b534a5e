<script setup lang="ts">
// Something happened at the machine: what it was, and what lies there now.
import { computed, ref, watch } from 'vue'
import { ask, call, useApiQuery } from '@/api/ask'
import { send, useSending } from '@/api/change'
import type { Schemas } from '@/api/client'
import { tell } from '@/shell/undo'
import { useDraft } from '@/shell/draft'
import { newKey } from '@/shell/format'

const props = defineProps<{ printer: Schemas['PrinterOut']; visit: number | null }>()
const open = defineModel<boolean>({ required: true })
type What = Schemas['ChangeIn']['what']
const { data } = useApiQuery('/api/printers/{printer_id}/changes', () => ({ printer_id: props.printer.id }))
const what = ref<What | ''>('')
const { kept: note, clear: clearNote } = useDraft(`happened-${props.printer.id}`, '')
const surface = ref('')
const key = ref(newKey())
const sending = useSending({ key })
const surfaces = computed(() =>
  props.visit !== null && what.value === 'plate' ? props.printer.surfaces : [],
)
watch(open, (now) => {
  if (!now) return
  what.value = surface.value = sending.trouble = ''
  key.value = newKey()
})
watch(what, () => (key.value = newKey()))
async function write(): Promise<void> {
  const happened = what.value
  if (!happened) return void sending.lacks('Say what happened.')
  const made = await sending.run((client_key) =>
    call(
      'post',
      '/api/printers/{printer_id}/changes',
      { printer_id: props.printer.id },
      { client_key, what: happened, note: note.value, visit_id: props.visit },
    ),
  )
  if (!made) return
  const lies = surfaces.value.find((one) => one.name === surface.value)
  const changed =
    !lies ||
    (await sending.run(async () => {
      const at = { visit_id: props.visit! }
      const { version } = await ask('/api/visits/{visit_id}', at)
      return call('patch', '/api/visits/{visit_id}', at, {
        version,
        surface: lies.name,
        surface_kind: lies.kind,
      })
    }))
  if (!changed) return
  open.value = false
  clearNote()
  tell(`Written down: ${made.words[0]!.toLowerCase()}${made.words.slice(1)}.`, () =>
    send('delete', '/api/changes/{change_id}', { change_id: made.id }),
  )
}
</script>

<template>
  <el-dialog v-model="open" title="What happened?" width="min(94vw, 560px)" append-to-body>
    <el-form class="stack" @submit.prevent="write">
      <p v-if="what === 'crash'" class="alarm" role="alert">
        <b>Stop it at once.</b> The power switch, if nothing else. Touch nothing until it has cooled.
      </p>
      <el-radio-group v-model="what" class="kinds" aria-label="What happened">
        <el-radio v-for="kind in data?.kinds ?? []" :key="kind.what" :value="kind.what">{{
          kind.words
        }}</el-radio>
      </el-radio-group>
      <label v-if="surfaces.length" class="stack label"
        >Which lies there now?
        <el-select v-model="surface" placeholder="not said" clearable>
          <el-option
            v-for="one in surfaces"
            :key="one.name"
            :value="one.name"
            :label="one.thickness ? `${one.name}, ${one.thickness} mm` : one.name"
          />
        </el-select>
      </label>
      <label class="stack label"
        >Note, if you like
        <el-input v-model="note" maxlength="500" />
      </label>
      <p class="small quiet">
        What stands on it is marked doubtful or gone on every page, and a list says what to do now, in order.
      </p>
      <TroubleNote v-if="sending.trouble">{{ sending.trouble }}</TroubleNote>
      <div class="row">
        <el-button type="primary" size="large" native-type="submit" :disabled="!what" :loading="sending.busy"
          >Write it down</el-button
        >
        <el-button size="large" @click="open = false">Cancel</el-button>
      </div>
    </el-form>
  </el-dialog>
</template>

<style scoped>
.kinds {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(220px, 1fr));
  gap: 2px 12px;
}
.kinds :deep(.el-radio) {
  height: auto;
  min-height: 40px;
  margin: 0;
  white-space: normal;
}
.label {
  gap: 4px;
}
.alarm {
  background: #92232b;
  color: #fff;
  padding: 10px 12px;
  border-radius: var(--round);
}
</style>
