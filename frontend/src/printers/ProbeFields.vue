<script setup lang="ts">
// What touches the bed, where its zero is kept, and what stands between the two.
import BeamFields from './BeamFields.vue'
import { BESIDE, type More } from './more'
import SpringLimits from './SpringLimits.vue'

const more = defineModel<More>({ required: true })
defineProps<{ errors: Record<string, string>; screws: { name: string }[] }>()
const PROBES = [
  { value: 'none', label: 'No probe: paper, gauge or eye' },
  { value: 'retracting', label: 'Retracting pin' },
  { value: 'inductive', label: 'Inductive: feels metal, through glass too' },
  { value: 'capacitive', label: 'Capacitive: feels whatever lies there' },
  { value: 'switch', label: 'Switch on an arm' },
  { value: 'nozzle', label: 'The nozzle itself' },
  { value: 'strain', label: 'Strain gauge' },
] as const
const KEPT = [
  { value: 'printer', label: 'in the printer' },
  { value: 'slicer', label: 'in the slicer’s profile' },
  { value: 'start_code', label: 'in the start code' },
] as const
</script>

<template>
  <section class="sheet stack">
    <h2>Probe and offset</h2>
    <ChoiceField id="probe-kind" v-model="more.probe_kind" label="What touches the bed">
      <el-option v-for="p in PROBES" :key="p.value" :value="p.value" :label="p.label" />
    </ChoiceField>
    <template v-if="more.probe_kind !== 'none'">
      <div v-if="BESIDE.includes(more.probe_kind)" class="pair">
        <NumberField
          id="probe-dx"
          v-model="more.probe_dx"
          label="Right of the nozzle"
          term="probe_offset"
          unit="mm"
          :wrong="errors.probe_dx"
        />
        <NumberField
          id="probe-dy"
          v-model="more.probe_dy"
          label="Behind the nozzle"
          unit="mm"
          :wrong="errors.probe_dy"
        />
      </div>
      <p v-if="BESIDE.includes(more.probe_kind)" class="small quiet">
        Minus for left, and for in front. What it reaches is dashed in the picture.
      </p>
    </template>
    <ChoiceField
      id="compensation"
      v-model="more.compensation"
      label="What its compensation really does"
      term="compensation"
    >
      <el-option value="none" label="nothing, or there is none" />
      <el-option value="mean" label="only moves all up or down by the mean of its points" />
      <el-option
        value="mesh"
        :label="`follows a mesh${more.probe_kind === 'none' ? ', measured by hand' : ''}`"
      />
    </ChoiceField>
    <div class="pair">
      <div>
        <ChoiceField
          id="zero-kept"
          v-model="more.zero_kept"
          label="What decides where Z is 0"
          term="z_switch"
        >
          <el-option value="" label="not known" />
          <el-option v-if="more.probe_kind !== 'none'" value="probe" label="its probe" />
          <el-option value="switch" label="a Z switch" />
          <el-option v-if="screws.length" value="knobs" label="the knobs" />
        </ChoiceField>
        <p v-if="errors.zero_kept" class="wrong">{{ errors.zero_kept }}</p>
      </div>
      <NumberField
        v-if="more.zero_kept === 'switch'"
        id="switch-pitch"
        v-model="more.switch_pitch"
        label="Its screw, mm a turn"
        placeholder="no screw"
        :wrong="errors.switch_pitch"
      />
    </div>
    <fieldset>
      <legend class="label">Which way does the Z offset bring the nozzle closer?</legend>
      <el-radio-group v-model="more.closer_is" aria-label="Sign of the Z offset">
        <el-radio-button value="negative">more negative (usual)</el-radio-button
        ><el-radio-button value="positive">more positive</el-radio-button>
      </el-radio-group>
    </fieldset>
    <fieldset>
      <legend class="label">Where is it kept?</legend>
      <el-checkbox-group v-model="more.offset_kept"
        ><el-checkbox v-for="k in KEPT" :key="k.value" :value="k.value">{{
          k.label
        }}</el-checkbox></el-checkbox-group
      >
      <CautionNote v-if="more.offset_kept.length > 1">
        Kept in several places they add up. One place is safest.
      </CautionNote>
    </fieldset>
    <BeamFields v-model="more" :errors="errors" />
    <SpringLimits v-model="more.limits" :screws="screws" :errors="errors" />
    <el-checkbox v-if="more.pads.length > 3 || screws.length > 3" v-model="more.plate_bends"
      >The plate is thin and bends to its {{ screws.length ? 'screws' : 'pads' }}, rather than tipping
      stiffly</el-checkbox
    >
  </section>
</template>

<style scoped>
.pair {
  display: grid;
  gap: 12px;
  align-items: end;
}
.pair {
  grid-template-columns: 1fr 1fr;
}
</style>
