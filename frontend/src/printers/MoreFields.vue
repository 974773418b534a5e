<script setup lang="ts">
// Probe and offset, cross beam, surfaces and materials, line: each folded away until it is wanted.
import { useKnowledge } from '@/api/queries'
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
    <div>
      <label class="label" for="probe-kind">What touches the bed</label>
      <select id="probe-kind" v-model="more.probe_kind" class="field">
        <option v-for="p in PROBES" :key="p.value" :value="p.value">{{ p.label }}</option>
      </select>
    </div>
    <template v-if="more.probe_kind !== 'none'">
      <div v-if="BESIDE.includes(more.probe_kind)" class="pair">
        <div>
          <label class="label" for="probe-dx">Right of the nozzle, mm</label
          ><input id="probe-dx" v-model="more.probe_dx" class="field" inputmode="decimal" />
          <p v-if="errors.probe_dx" class="wrong">{{ errors.probe_dx }}</p>
        </div>
        <div>
          <label class="label" for="probe-dy">Behind the nozzle, mm</label
          ><input id="probe-dy" v-model="more.probe_dy" class="field" inputmode="decimal" />
          <p v-if="errors.probe_dy" class="wrong">{{ errors.probe_dy }}</p>
        </div>
      </div>
      <p v-if="BESIDE.includes(more.probe_kind)" class="small quiet">
        Minus for left, and for in front. What it reaches is dashed in the picture.
      </p>
    </template>
    <div>
      <label class="label" for="compensation">What its compensation really does</label>
      <select id="compensation" v-model="more.compensation" class="field">
        <option value="none">nothing, or there is none</option>
        <option value="mean">only moves all up or down by the mean of its points</option>
        <option value="mesh">
          follows a mesh{{ more.probe_kind === 'none' ? ', measured by hand' : '' }}
        </option>
      </select>
    </div>
    <div class="pair">
      <div>
        <label class="label" for="zero-kept">What decides where Z is 0</label>
        <select id="zero-kept" v-model="more.zero_kept" class="field">
          <option value="">not known</option>
          <option v-if="more.probe_kind !== 'none'" value="probe">its probe</option>
          <option value="switch">a Z switch</option>
          <option v-if="screws.length" value="knobs">the knobs</option>
        </select>
        <p v-if="errors.zero_kept" class="wrong">{{ errors.zero_kept }}</p>
      </div>
      <div v-if="more.zero_kept === 'switch'">
        <label class="label" for="switch-pitch">Its screw, mm a turn</label
        ><input
          id="switch-pitch"
          v-model="more.switch_pitch"
          class="field"
          inputmode="decimal"
          placeholder="no screw"
        />
        <p v-if="errors.switch_pitch" class="wrong">{{ errors.switch_pitch }}</p>
      </div>
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
      <div class="row">
        <label v-for="k in KEPT" :key="k.value" class="row tick"
          ><input v-model="more.offset_kept" type="checkbox" :value="k.value" /> {{ k.label }}</label
        >
      </div>
      <p v-if="more.offset_kept.length > 1" class="caution">
        Kept in several places they add up. One place is safest.
      </p>
    </fieldset>
    <details>
      <summary>Cross beam</summary>
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
          <div>
            <label class="label" for="beam-lead">Travel a turn, mm</label
            ><input id="beam-lead" v-model="more.beam_lead" class="field" inputmode="decimal" />
            <p v-if="errors.beam_lead" class="wrong">{{ errors.beam_lead }}</p>
          </div>
          <template v-if="more.beam_screws === 2">
            <div>
              <label class="label" for="beam-left">Left screw at X, mm</label
              ><input
                id="beam-left"
                v-model="more.beam_left"
                class="field"
                inputmode="decimal"
                placeholder="not known"
              />
            </div>
            <div>
              <label class="label" for="beam-right">Right screw at X, mm</label
              ><input
                id="beam-right"
                v-model="more.beam_right"
                class="field"
                inputmode="decimal"
                placeholder="not known"
              />
            </div>
          </template>
        </div>
        <div v-if="more.beam_screws === 2" class="pair">
          <div>
            <label class="label" for="beam-carries">The two screws carry</label>
            <select id="beam-carries" v-model="more.beam_carries" class="field">
              <option value="unknown">not known: learn it from a trial turn</option>
              <option value="nozzle">the beam with the nozzle</option>
              <option value="bed">the bed</option>
            </select>
          </div>
          <div>
            <label class="label" for="beam-raises">Seen from above, a lead screw raises when it turns</label>
            <el-select
              id="beam-raises"
              v-model="more.beam_raises"
              size="large"
              aria-label="A lead screw raises when it turns"
            >
              <el-option value="" label="not known" /><el-option
                value="clockwise"
                label="clockwise"
              /><el-option value="counterclockwise" label="counterclockwise" />
            </el-select>
          </div>
          <div>
            <label class="label" for="beam-steps">Motor steps a turn</label
            ><input
              id="beam-steps"
              v-model="more.beam_steps"
              class="field"
              inputmode="numeric"
              placeholder="not known"
            />
            <p v-if="errors.beam_steps" class="wrong">{{ errors.beam_steps }}</p>
          </div>
        </div>
      </div>
    </details>
    <SpringLimits v-model="more.limits" :screws="screws" :errors="errors" />
    <label v-if="more.pads.length > 3 || screws.length > 3" class="row tick"
      ><input v-model="more.plate_bends" type="checkbox" /> The plate is thin and bends to its
      {{ screws.length ? 'screws' : 'pads' }}, rather than tipping stiffly</label
    >
  </section>
  <section class="sheet stack">
    <h2>Surfaces and materials</h2>
    <p v-if="!more.surfaces.length" class="quiet small">
      The print surfaces you own for it. A visit chooses among them and takes its temperatures from the pair.
    </p>
    <div v-for="(s, i) in more.surfaces" :key="i" class="stack one">
      <div class="pair">
        <div>
          <label class="label" :for="`s-name-${i}`">Name</label
          ><input
            :id="`s-name-${i}`"
            v-model="s.name"
            class="field"
            maxlength="80"
            placeholder="what you call it"
          />
        </div>
        <div>
          <label class="label" :for="`s-kind-${i}`">Kind</label>
          <select :id="`s-kind-${i}`" v-model="s.kind" class="field">
            <option v-for="k in known?.surfaces" :key="k.key" :value="k.key">{{ k.name }}</option>
            <option value="other">another kind</option>
          </select>
        </div>
      </div>
      <div class="four">
        <div>
          <label class="label small" :for="`s-thick-${i}`">Thickness, mm</label
          ><input :id="`s-thick-${i}`" v-model="s.thickness" class="field" inputmode="decimal" />
          <p v-if="errors[`surfaces.${i}.thickness`]" class="wrong">
            {{ errors[`surfaces.${i}.thickness`] }}
          </p>
        </div>
        <div>
          <label class="label small" :for="`s-cond-${i}`">Condition</label
          ><select :id="`s-cond-${i}`" v-model="s.condition" class="field">
            <option>new</option>
            <option>good</option>
            <option>worn</option>
            <option>damaged</option>
          </select>
        </div>
        <div>
          <label class="label small" :for="`s-prints-${i}`">Prints since wash</label
          ><input :id="`s-prints-${i}`" v-model="s.prints" class="field" inputmode="numeric" />
        </div>
        <div>
          <label class="label small" :for="`s-coats-${i}`">Coats of adhesive</label
          ><input :id="`s-coats-${i}`" v-model="s.coats" class="field" inputmode="numeric" />
        </div>
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
      <div class="row">
        <label v-for="m in known?.materials" :key="m.name" class="row tick"
          ><input v-model="more.materials" type="checkbox" :value="m.name" /> {{ m.name }}</label
        >
      </div>
    </fieldset>
  </section>
  <section class="sheet stack">
    <details :open="more.port !== ''">
      <summary><h2 class="inline">Line to the printer</h2></summary>
      <div class="stack inner">
        <div>
          <label class="label" for="port">Port or address</label>
          <input
            id="port"
            v-model="more.port"
            class="field"
            maxlength="200"
            placeholder="/dev/ttyACM0 or socket://127.0.0.1:8422"
            autocomplete="off"
          />
          <p v-if="errors.port" class="wrong">{{ errors.port }}</p>
        </div>
        <div class="three">
          <div>
            <label class="label" for="baud">Baud</label
            ><input id="baud" v-model="more.baud" class="field" inputmode="numeric" />
            <p v-if="errors.baud" class="wrong">{{ errors.baud }}</p>
          </div>
          <div>
            <label class="label" for="dialect">Dialect</label>
            <input id="dialect" v-model="more.dialect" class="field" list="dialects" maxlength="40" />
            <datalist id="dialects">
              <option v-for="d in known?.dialects" :key="d.key" :value="d.key">{{ d.name }}</option>
            </datalist>
          </div>
          <div>
            <label class="label" for="link-name">Served by the link named</label
            ><input id="link-name" v-model="more.link_name" class="field" maxlength="40" placeholder="any" />
          </div>
        </div>
        <div class="three">
          <div>
            <label class="label" for="most-bed">Bed at most, °C</label
            ><input id="most-bed" v-model="more.most_bed" class="field" inputmode="decimal" />
            <p v-if="errors.most_bed" class="wrong">{{ errors.most_bed }}</p>
          </div>
          <div>
            <label class="label" for="most-nozzle">Nozzle at most, °C</label
            ><input id="most-nozzle" v-model="more.most_nozzle" class="field" inputmode="decimal" />
            <p v-if="errors.most_nozzle" class="wrong">{{ errors.most_nozzle }}</p>
          </div>
          <div>
            <label class="label" for="lift">Lift between touches, mm</label
            ><input id="lift" v-model="more.lift" class="field" inputmode="decimal" />
            <p v-if="errors.lift" class="wrong">{{ errors.lift }}</p>
          </div>
          <div>
            <label class="label" for="longest-heat">Heaters off after, minutes</label
            ><input id="longest-heat" v-model="more.longest_heat" class="field" inputmode="decimal" />
            <p v-if="errors.longest_heat" class="wrong">{{ errors.longest_heat }}</p>
          </div>
        </div>
        <p class="small quiet">
          Finchwort never asks for more than these, and never moves beyond the printable area. Heaters it
          switched on go off by themselves after that time, counted from the last thing you agreed to.
        </p>
      </div>
    </details>
  </section>
</template>

<style scoped>
summary {
  cursor: pointer;
  font-weight: 600;
  padding: 6px 0;
}
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
