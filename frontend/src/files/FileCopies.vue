<script setup lang="ts">
// A copy of the file for this bed: its first layers bent to it, the print moved on it, or one thing changed.
import { computed, reactive, ref, watch } from 'vue'
import { sendForFile } from '@/api/bytes'
import { type Schemas } from '@/api/client'
import { hand } from '@/charts/save'
import { parseNumber, query } from '@/shell/format'
import BendChoice from './BendChoice.vue'
import FileTaker from './FileTaker.vue'
import MoveChoice from './MoveChoice.vue'
import { useFileSending } from './sending'

const props = defineProps<{ file: Schemas['FileOut'] }>()
const kind = defineModel<'bent' | 'moved' | 'changed'>({ required: true })
const KINDS = { bent: 'Bent to the bed', moved: 'Moved', changed: 'One thing changed' } as const
const CHANGES = {
  speed: { label: 'Speed', unit: 'mm/s', now: () => props.file.facts.speed },
  fan: { label: 'Fan', unit: '%', now: () => props.file.facts.fan },
  nozzle: { label: 'Nozzle', unit: '°C', now: () => props.file.facts.nozzle },
  bed: { label: 'Bed', unit: '°C', now: () => props.file.facts.bed },
  offset: { label: 'Z offset', unit: 'mm', now: () => 0 },
} as const
const typed = reactive({
  top: '',
  cleared: false,
  dx: '',
  dy: '',
  turn: 0,
  part: -1,
  change: 'speed' as keyof typeof CHANGES,
  value: '',
})
const may = ref(false)
const head = ref<string[]>([])
const sending = useFileSending('copying')
const numbers = computed(() => {
  const [top, dx, dy, value] = [typed.top, typed.dx, typed.dy, typed.value].map(parseNumber)
  return { top: top ?? null, dx: dx ?? 0, dy: dy ?? 0, value: value ?? null }
})
const asks = computed(() => {
  const { top, dx, dy, value } = numbers.value
  if (kind.value === 'bent')
    return may.value && props.file.stages.length
      ? { cleared: typed.cleared, ...(top === null ? {} : { top }) }
      : null
  if (kind.value === 'moved')
    return dx || dy || typed.turn
      ? { dx, dy, turn: typed.turn, ...(typed.part < 0 ? {} : { part: typed.part }) }
      : null
  return value === null ? null : { change: typed.change, value }
})
const now = computed(() => CHANGES[typed.change].now())
watch([asks, kind], () => (head.value = []))

/** What the copy says of itself: the remarks that it begins with. */
async function headOf(copy: Blob): Promise<string[]> {
  const lines = (await copy.slice(0, 4000).text()).split(/\r?\n/)
  const end = lines.findIndex((line, i) => i > 0 && !line.startsWith('; '))
  return lines.slice(0, end < 0 ? 1 : end).map((line) => line.slice(2))
}
async function take(file: File): Promise<void> {
  if (!asks.value) return
  const url = `/api/files/${props.file.id}/copies?${query({ kind: kind.value, ...asks.value })}`
  const copy = await sending.send(file, (one, progress) => sendForFile(url, one, progress))
  if (!copy) return
  const stem = props.file.name.replace(/(\.(gcode|gco|gc?|nc|ngc|tap|txt|zip|gz))+$/i, '')
  hand(copy, `${stem || 'print'}-${kind.value}.gcode`)
  head.value = await headOf(copy)
}
</script>

<template>
  <section class="sheet stack" aria-label="A copy for this bed">
    <h2>A copy for this bed</h2>
    <el-radio-group v-model="kind" aria-label="What the copy is">
      <el-radio-button v-for="(label, one) in KINDS" :key="one" :value="one">{{ label }}</el-radio-button>
    </el-radio-group>
    <BendChoice
      v-if="kind === 'bent' && file.stages.length"
      v-model:top="typed.top"
      v-model:cleared="typed.cleared"
      v-model:may="may"
      :file="file"
    />
    <p v-else-if="kind === 'bent'">
      A bent copy follows readings of this bed.
      <RouterLink :to="`/printers/${file.printer_id}`">Measure it</RouterLink>
    </p>
    <MoveChoice
      v-else-if="kind === 'moved'"
      v-model:dx="typed.dx"
      v-model:dy="typed.dy"
      v-model:turn="typed.turn"
      v-model:part="typed.part"
      :file="file"
    />
    <template v-else>
      <p>For an experiment: one thing is otherwise in the first layer, and all else stays byte for byte.</p>
      <div class="fields">
        <ChoiceField id="copy-change" v-model="typed.change" label="What">
          <el-option v-for="(one, name) in CHANGES" :key="name" :value="name" :label="one.label" />
        </ChoiceField>
        <NumberField
          id="copy-value"
          v-model="typed.value"
          :label="typed.change === 'offset' ? 'By, away from the plate' : 'To'"
          :unit="CHANGES[typed.change].unit"
          :placeholder="typed.change === 'offset' ? '0.02' : now === null ? '' : String(now)"
        />
      </div>
      <p v-if="typed.change === 'offset'" class="small quiet">
        One step: 0.02 mm is usual, 0.05 mm the most. With a minus it goes closer.
      </p>
      <CautionNote v-else-if="typed.change === 'nozzle' || typed.change === 'bed'"
        >Hot parts burn. The printer’s own limits hold in the copy too.</CautionNote
      >
    </template>
    <FileTaker
      v-if="asks"
      :sending="sending"
      says="Copying"
      :label="`Drop ${file.name} once more: only what matters of it is kept here.`"
      @file="take"
    />
    <div v-if="head.length" role="status" class="stack small">
      <p><b>The copy is with your downloads. At its head it says:</b></p>
      <p v-for="line in head" :key="line">{{ line }}</p>
    </div>
    <p class="quiet small">
      Nothing is started. A copy that would touch the plate or leave the area is not made.
    </p>
  </section>
</template>

<style scoped>
.fields {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(130px, 1fr));
  gap: 10px;
  align-items: end;
}
</style>
