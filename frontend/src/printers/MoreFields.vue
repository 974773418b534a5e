<script setup lang="ts">
// Probe and offset, cross beam, surfaces and materials, line: each folded away until it is wanted.
import type { Schemas } from '@/api/client'
import { useKnowledge } from '@/api/shown'
import { BESIDE, type More } from './more'
import SpringLimits from './SpringLimits.vue'

const more = defineModel<More>({ required: true })
defineProps<{ errors: Record<string, string>; screws: { name: string }[] }>()
const { data: known } = useKnowledge()
const PROBES = [
  { value: 'none', label: 'No probe: paper, gauge or eye' },
  { value: 'retracting', label: 'Retracting pin' },
  { value: 'inductive', label: 'Inductive: feels metal, through glass too' },
  { value: 'capacitive', label: 'Capacitive: feels whatever lies there' },
  { value: 'switch', label: 'Switch on an arm' },
  { value: 'nozzle', label: 'The nozzle itself' },
  { value: 'strain', label: 'Strain gauge' },
] as const
const CONDITIONS: NonNullable<Schemas['SurfaceSetup']['condition']>[] = ['new', 'good', 'worn', 'damaged']
const KEPT = [
  { value: 'printer', label: 'in the printer' },
  { value: 'slicer', label: 'in the slicer’s profile' },
  { value: 'start_code', label: 'in the start code' },
] as const
function addSurface(): void {
  more.value.surfaces.push({
    name: '',
    kind: known.value?.surfaces[0]?.key ?? 'other',
    thickness: '',
    condition: 'good',
    prints: '0',
    coats: '0',
  })
}
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
        <ChoiceField id="zero-kept" v-model="more.zero_kept" label="What decides where Z is 0">
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
    <FoldPart title="Cross beam">
      <div class="stack inner">
        <fieldset>
          <legend class="label">The beam hangs on</legend>
          <el-radio-group v-model="more.beam_screws" aria-label="Lead screws of the beam">
            <el-radio-button :value="0">no such beam</el-radio-button
            ><el-radio-button :value="1">one lead screw</el-radio-button
            ><el-radio-button :value="2">two</el-radio-button>
          </el-radio-group>
        </fieldset>
        <div v-if="more.beam_screws" class="three">
          <NumberField
            id="beam-lead"
            v-model="more.beam_lead"
            label="Travel a turn"
            unit="mm"
            :wrong="errors.beam_lead"
          />
          <template v-if="more.beam_screws === 2">
            <NumberField
              id="beam-left"
              v-model="more.beam_left"
              label="Left screw at X"
              unit="mm"
              placeholder="not known"
            />
            <NumberField
              id="beam-right"
              v-model="more.beam_right"
              label="Right screw at X"
              unit="mm"
              placeholder="not known"
            />
          </template>
        </div>
        <div v-if="more.beam_screws === 2" class="pair">
          <ChoiceField id="beam-carries" v-model="more.beam_carries" label="The two screws carry">
            <el-option value="unknown" label="not known: learn it from a trial turn" />
            <el-option value="nozzle" label="the beam with the nozzle" />
            <el-option value="bed" label="the bed" />
          </ChoiceField>
          <ChoiceField
            id="beam-raises"
            v-model="more.beam_raises"
            label="Seen from above, a lead screw raises when it turns"
          >
            <el-option value="" label="not known" />
            <el-option value="clockwise" label="clockwise" />
            <el-option value="counterclockwise" label="counterclockwise" />
          </ChoiceField>
          <NumberField
            id="beam-steps"
            v-model="more.beam_steps"
            label="Motor steps a turn"
            inputmode="numeric"
            placeholder="not known"
            :wrong="errors.beam_steps"
          />
        </div>
      </div>
    </FoldPart>
    <SpringLimits v-model="more.limits" :screws="screws" :errors="errors" />
    <el-checkbox v-if="more.pads.length > 3 || screws.length > 3" v-model="more.plate_bends"
      >The plate is thin and bends to its {{ screws.length ? 'screws' : 'pads' }}, rather than tipping
      stiffly</el-checkbox
    >
  </section>
  <section class="sheet stack">
    <h2>Surfaces and materials</h2>
    <p v-if="!more.surfaces.length" class="quiet small">
      The print surfaces you own for it. A visit chooses among them and takes its temperatures from the pair.
    </p>
    <div v-for="(s, i) in more.surfaces" :key="i" class="stack one">
      <div class="pair">
        <TextField
          :id="`s-name-${i}`"
          v-model="s.name"
          label="Name"
          maxlength="80"
          placeholder="what you call it"
        />
        <ChoiceField :id="`s-kind-${i}`" v-model="s.kind" label="Kind">
          <el-option v-for="k in known?.surfaces" :key="k.key" :value="k.key" :label="k.name" />
          <el-option value="other" label="another kind" />
        </ChoiceField>
      </div>
      <div class="four">
        <NumberField
          :id="`s-thick-${i}`"
          v-model="s.thickness"
          label="Thickness"
          unit="mm"
          :wrong="errors[`surfaces.${i}.thickness`]"
        />
        <ChoiceField :id="`s-cond-${i}`" v-model="s.condition" label="Condition">
          <el-option v-for="c in CONDITIONS" :key="c" :value="c" :label="c" />
        </ChoiceField>
        <NumberField :id="`s-prints-${i}`" v-model="s.prints" label="Prints since wash" inputmode="numeric" />
        <NumberField :id="`s-coats-${i}`" v-model="s.coats" label="Coats of adhesive" inputmode="numeric" />
      </div>
      <p class="row">
        <el-button
          text
          size="small"
          :aria-label="`Remove surface ${s.name || i + 1}`"
          @click="more.surfaces.splice(i, 1)"
          >Remove</el-button
        >
      </p>
    </div>
    <p class="row"><el-button @click="addSurface">Add a surface</el-button></p>
    <fieldset>
      <legend class="label">Materials in use</legend>
      <el-checkbox-group v-model="more.materials"
        ><el-checkbox v-for="m in known?.materials" :key="m.name" :value="m.name">{{
          m.name
        }}</el-checkbox></el-checkbox-group
      >
    </fieldset>
  </section>
  <section class="sheet stack">
    <FoldPart :open="more.port !== ''"
      ><template #title><h2 class="inline">Line to the printer</h2></template>
      <div class="stack inner">
        <TextField
          id="port"
          v-model="more.port"
          label="Port or address"
          maxlength="200"
          placeholder="/dev/ttyACM0 or socket://127.0.0.1:8422"
          autocomplete="off"
          :wrong="errors.port"
        />
        <div class="three">
          <NumberField id="baud" v-model="more.baud" label="Baud" inputmode="numeric" :wrong="errors.baud" />
          <SuggestField
            id="dialect"
            v-model="more.dialect"
            label="Dialect"
            maxlength="40"
            :known="known?.dialects.map((d) => ({ value: d.key, says: d.name })) ?? []"
          />
          <TextField
            id="link-name"
            v-model="more.link_name"
            label="Served by the link named"
            maxlength="40"
            placeholder="any"
          />
        </div>
        <div class="three">
          <NumberField
            id="most-bed"
            v-model="more.most_bed"
            label="Bed at most"
            unit="°C"
            :wrong="errors.most_bed"
          />
          <NumberField
            id="most-nozzle"
            v-model="more.most_nozzle"
            label="Nozzle at most"
            unit="°C"
            :wrong="errors.most_nozzle"
          />
          <NumberField
            id="lift"
            v-model="more.lift"
            label="Lift between touches"
            unit="mm"
            :wrong="errors.lift"
          />
          <NumberField
            id="longest-heat"
            v-model="more.longest_heat"
            label="Heaters off after, minutes"
            :wrong="errors.longest_heat"
          />
        </div>
        <p class="small quiet">
          Finchwort never asks for more than these, and never moves beyond the printable area. Heaters it
          switched on go off by themselves after that time, counted from the last thing you agreed to.
        </p>
      </div>
    </FoldPart>
  </section>
</template>

<style scoped>
.inline {
  display: inline;
}
.inner {
  padding-top: 8px;
}
.pair,
.three,
.four {
  display: grid;
  gap: 12px;
  align-items: end;
}
.pair {
  grid-template-columns: 1fr 1fr;
}
.three {
  grid-template-columns: 1fr 1fr 1fr;
}
.four {
  grid-template-columns: repeat(4, 1fr);
}
.one {
  border-bottom: 1px dashed var(--line-2);
  padding-bottom: 8px;
}
.tick input {
  width: 20px;
  height: 20px;
}
@media (max-width: 640px) {
  .three,
  .four {
    grid-template-columns: 1fr 1fr;
  }
}
</style>
