<script setup lang="ts">
// Three bare numbers of one row: how the cross beam hangs, without a survey.
import { ref } from 'vue'
import { call } from '@/api/ask'
import { sentence, type Schemas } from '@/api/client'
import { useDraft } from '@/shell/draft'

const props = defineProps<{ visit: Schemas['VisitOut'] }>()
// kept, and filled in when three numbers are pasted elsewhere
const { kept: text } = useDraft(`beam-row-${props.visit.id}`, '')
const values = ref<'height' | 'gap'>('height')
const plan = ref<Schemas['BeamPlanOut'] | null>(null)
const trouble = ref('')
const busy = ref(false)
async function work(): Promise<void> {
  trouble.value = ''
  plan.value = null
  busy.value = true
  try {
    plan.value = await call(
      'post',
      '/api/visits/{visit_id}/beam-row',
      { visit_id: props.visit.id },
      { text: text.value, values: values.value },
    )
  } catch (e) {
    trouble.value = sentence(e)
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <div class="stack">
    <h3>Or from three readings in one row</h3>
    <el-form class="row" @submit.prevent="text.trim() && work()">
      <el-input
        v-model="text"
        size="large"
        class="numbers"
        placeholder="-0.12 0.01 0.15"
        aria-label="Left, middle, right, mm"
      />
      <el-radio-group v-model="values" aria-label="What the numbers are">
        <el-radio-button value="height">heights</el-radio-button
        ><el-radio-button value="gap">gaps</el-radio-button>
      </el-radio-group>
      <el-button native-type="submit" size="large" :loading="busy" :disabled="!text.trim()"
        >Work it out</el-button
      >
    </el-form>
    <p class="small quiet">Left, middle, right, in mm, along the beam. Home before, and read them hot.</p>
    <template v-if="plan">
      <p v-for="d in plan.drives" :key="d.side">
        <b>{{ d.side }} screw {{ d.rise > 0 ? 'up' : 'down' }}</b
        >: {{ d.words }}
      </p>
      <p aria-live="polite">{{ plan.sentence }}</p>
      <p class="small quiet">{{ plan.independent }}</p>
      <CautionNote v-if="plan.drives.length">
        Motors off before you turn a lead screw by hand; fingers out of the belts before they go on again.
      </CautionNote>
    </template>
    <TroubleNote v-if="trouble">{{ trouble }}</TroubleNote>
  </div>
</template>

<style scoped>
.numbers {
  max-width: 18em;
}
</style>
