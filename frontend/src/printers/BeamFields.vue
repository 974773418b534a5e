<script setup lang="ts">
// What the cross beam hangs on.
import type { More } from './more'

const more = defineModel<More>({ required: true })
defineProps<{ errors: Record<string, string> }>()
</script>

<template>
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
</template>

<style scoped>
.pair,
.three {
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
.inner {
  padding-top: 8px;
}
@media (max-width: 640px) {
  .three {
    grid-template-columns: 1fr 1fr;
  }
}
</style>
