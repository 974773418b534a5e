<script setup lang="ts">
// What carries the plate: screws with their thread and how they are turned, pads, or neither.
import type { Schemas } from '@/api/client'
import PadFields from './PadFields.vue'
import ScrewTable from './ScrewTable.vue'
import type { SetUpText, Support } from './setUpText'

defineProps<{
  errors: Record<string, string>
  bed: Schemas['Bed'] | null
  threads: { name: string; pitch: number }[]
}>()
defineEmits<{ count: [count: Support]; thread: [name: string] }>()
const now = defineModel<SetUpText>({ required: true })
</script>

<template>
  <section class="sheet stack">
    <h2>What carries the plate</h2>
    <fieldset>
      <legend class="label">Screws, pads, or neither?</legend>
      <el-radio-group
        :model-value="now.screwCount"
        aria-label="Number of screws"
        @update:model-value="$emit('count', $event as Support)"
      >
        <el-radio-button :value="4">Four screws</el-radio-button>
        <el-radio-button :value="3">Three screws</el-radio-button>
        <el-radio-button value="pads">Pads, shimmed</el-radio-button>
        <el-radio-button :value="0">Neither</el-radio-button>
      </el-radio-group>
    </fieldset>
    <template v-if="now.form.screws.length">
      <div class="pair">
        <ChoiceField
          id="thread"
          label="Thread (ISO 261)"
          term="pitch"
          :model-value="now.thread"
          @update:model-value="$emit('thread', $event)"
        >
          <el-option
            v-for="t in threads"
            :key="t.name"
            :value="t.name"
            :label="`${t.name}: ${t.pitch} mm a turn`"
          />
          <el-option value="own" label="another pitch" />
        </ChoiceField>
        <NumberField
          id="divisions"
          v-model="now.form.divisions"
          label="You turn in steps of 1/…"
          inputmode="numeric"
          :wrong="errors.divisions"
        />
      </div>
      <fieldset>
        <legend class="label">How do you see the knobs when you turn them?</legend>
        <el-radio-group v-model="now.form.knob_view" aria-label="How the knobs are seen">
          <el-radio-button value="behind">From above, knob under the bed</el-radio-button>
          <el-radio-button value="face">Looking at the knob or screw head</el-radio-button>
        </el-radio-group>
        <p class="small quiet">
          A right-hand thread tightens clockwise when you look at the knob itself, counterclockwise when you
          look down at it through the bed.
        </p>
      </fieldset>
      <FoldPart title="Positions, unusual threads">
        <div class="stack inner">
          <ScrewTable v-model="now" :errors="errors" />
          <fieldset>
            <legend class="label">Thread</legend>
            <el-radio-group v-model="now.form.thread_hand" aria-label="Hand of the thread">
              <el-radio-button value="right">Right-hand (usual)</el-radio-button>
              <el-radio-button value="left">Left-hand</el-radio-button>
            </el-radio-group>
          </fieldset>
          <fieldset>
            <legend class="label">Tightening a screw …</legend>
            <el-radio-group v-model="now.form.tightening_lowers" aria-label="What tightening does">
              <el-radio-button :value="true">lowers that corner (usual)</el-radio-button>
              <el-radio-button :value="false">raises it</el-radio-button>
            </el-radio-group>
          </fieldset>
        </div>
      </FoldPart>
    </template>
    <PadFields
      v-else-if="now.screwCount === 'pads'"
      v-model="now.more.pads"
      :errors="errors"
      :bed="bed"
      @moved="now.ownPlaces = true"
    />
    <p v-else class="quiet">Finchwort will show map and shape, but has nothing to turn.</p>
  </section>
</template>

<style scoped>
.inner {
  padding-top: 8px;
}
</style>
