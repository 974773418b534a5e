<script setup lang="ts">
// What a bed is: its name, its size, and what is looked at now and then.
import type { Form } from './setUpText'

defineProps<{ errors: Record<string, string> }>()
const form = defineModel<Form>({ required: true })
</script>

<template>
  <section class="sheet stack">
    <h2>The bed</h2>
    <TextField
      id="name"
      v-model="form.name"
      label="Name"
      maxlength="80"
      placeholder="What you call it"
      autocomplete="off"
      :wrong="errors.name"
    />
    <div class="pair">
      <NumberField
        id="width"
        v-model="form.width"
        label="Printable width (X)"
        unit="mm"
        :wrong="errors.width"
      />
      <NumberField
        id="depth"
        v-model="form.depth"
        label="Printable depth (Y)"
        unit="mm"
        :wrong="errors.depth"
      />
    </div>
    <fieldset>
      <legend class="label">Where is X 0, Y 0?</legend>
      <el-radio-group v-model="form.origin" aria-label="Zero point">
        <el-radio-button value="front_left">Front left</el-radio-button>
        <el-radio-button value="centre">In the middle</el-radio-button>
      </el-radio-group>
    </fieldset>
    <FoldPart title="Plate size, first layer, probe">
      <div class="stack inner">
        <div class="pair">
          <NumberField
            id="plate-width"
            v-model="form.plate_width"
            label="Plate width"
            unit="mm"
            placeholder="as the printable area"
            :wrong="errors.plate_width"
          />
          <NumberField
            id="plate-depth"
            v-model="form.plate_depth"
            label="Plate depth"
            unit="mm"
            placeholder="as the printable area"
            :wrong="errors.plate_depth"
          />
        </div>
        <div class="pair">
          <div>
            <NumberField id="first-layer" v-model="form.first_layer" label="First layer" unit="mm" />
            <p class="small quiet">All judgements are made against it.</p>
            <p v-if="errors.first_layer" class="wrong">{{ errors.first_layer }}</p>
          </div>
          <div>
            <NumberField
              id="repeatability"
              v-model="form.repeatability"
              label="Probe repeats to"
              unit="mm"
              placeholder="not known"
            />
            <p class="small quiet">Standard deviation at one point, if you know it.</p>
            <p v-if="errors.repeatability" class="wrong">{{ errors.repeatability }}</p>
          </div>
        </div>
        <TextField id="note" v-model="form.note" label="Note" maxlength="500" />
      </div>
    </FoldPart>
  </section>
</template>

<style scoped>
@media (max-width: 640px) {
  .pair {
    align-items: end;
  }
}
.inner {
  padding-top: 8px;
}
</style>
