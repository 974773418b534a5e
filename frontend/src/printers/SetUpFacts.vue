<script setup lang="ts">
// A machine as it is set up.
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { figure, mm } from '@/shell/format'

const props = defineProps<{ printer: Schemas['PrinterOut'] }>()
// addresses on this very machine can be followed
const note = computed(() => props.printer.note.split(/(http:\/\/127\.0\.0\.1:\d+)/))
const PROBES = {
  none: 'none',
  nozzle: 'the nozzle itself',
  retracting: 'retracting pin',
  inductive: 'inductive',
  capacitive: 'capacitive',
  switch: 'switch',
  strain: 'strain gauge',
} as const
const ZEROS = {
  probe: 'by its probe, at every homing',
  switch: 'by a Z switch on a post',
  knobs: 'by the knobs: the bed is raised to the tip',
} as const
const COMPENSATIONS = { none: 'none', mean: 'only the mean of its points', mesh: 'mesh' } as const
</script>

<template>
  <el-descriptions :column="1" border class="facts">
    <el-descriptions-item label="Printable area"
      >{{ printer.width }} × {{ printer.depth }} mm</el-descriptions-item
    >
    <el-descriptions-item label="Plate"
      >{{ printer.plate_width }} × {{ printer.plate_depth }} mm</el-descriptions-item
    >
    <el-descriptions-item label="Zero point">{{
      printer.origin === 'centre' ? 'in the middle' : 'front left'
    }}</el-descriptions-item>
    <el-descriptions-item label="Screws"
      ><template v-if="printer.screws.length"
        ><div v-for="s in printer.screws" :key="s.name">
          {{ s.name }}: {{ s.thread }}, {{ s.pitch }} mm a turn
        </div></template
      ><template v-else>{{
        printer.pads.length ? `none; the plate rests on ${printer.pads.length} pads` : 'none'
      }}</template></el-descriptions-item
    >
    <el-descriptions-item v-if="printer.screws.length" label="Knobs"
      >seen {{ printer.knob_view === 'behind' ? 'from above, through the bed' : 'from their own end' }},
      turned in steps of 1/{{ printer.divisions }}; tightening
      {{ printer.tightening_lowers ? 'lowers' : 'raises' }} the bed</el-descriptions-item
    >
    <el-descriptions-item label="First layer">{{ mm(printer.first_layer) }}</el-descriptions-item>
    <el-descriptions-item v-if="printer.probe_kind !== 'none'" label="Probe"
      >{{ PROBES[printer.probe_kind] }}, {{ figure(printer.probe_dx, true, 0) }} /
      {{ figure(printer.probe_dy, true, 0) }} mm from the nozzle</el-descriptions-item
    >
    <el-descriptions-item
      v-if="printer.compensation !== 'none' || printer.probe_kind !== 'none'"
      label="Compensation"
      >{{ COMPENSATIONS[printer.compensation] }}</el-descriptions-item
    >
    <el-descriptions-item v-if="printer.zero_kept" label="Z = 0 is kept">{{
      ZEROS[printer.zero_kept]
    }}</el-descriptions-item>
    <el-descriptions-item v-if="printer.beam_screws" label="Cross beam"
      >{{ printer.beam_screws === 2 ? 'two lead screws' : 'one lead screw' }}, {{ printer.beam_lead }} mm a
      turn</el-descriptions-item
    >
    <el-descriptions-item label="Z offset"
      >{{ printer.closer_is }} is closer
      <CautionNote v-if="printer.offset_warning">{{
        printer.offset_warning
      }}</CautionNote></el-descriptions-item
    >
    <el-descriptions-item label="Probe repeats to">{{
      printer.repeatability ? `±${mm(printer.repeatability, false, 3)} (standard deviation)` : 'not known'
    }}</el-descriptions-item>
  </el-descriptions>
  <p v-if="printer.note">
    <template v-for="(part, i) in note" :key="i"
      ><a v-if="part.startsWith('http')" :href="part" target="_blank" rel="noreferrer">{{ part }}</a
      ><template v-else>{{ part }}</template></template
    >
  </p>
</template>
