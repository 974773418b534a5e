<script setup lang="ts">
import { ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import type { Schemas } from '@/api/client'
import type { Wish } from '@/api/shown'
import { useDraft } from '@/shell/draft'
import { asPlanned, asTried, DONE, useTurned } from './turned'

const props = defineProps<{
  visit: Schemas['VisitOut']
  survey: number
  plan: Schemas['PlanOut']
  wish: Wish
  tried?: Record<string, number> | null
  stay?: boolean
}>()
const router = useRouter()
const done = ref(asPlanned(props.plan))
const editing = ref(false)
const { kept: note, clear } = useDraft(`turned-${props.survey}`, '')
watch(
  () => props.plan,
  (plan) => (done.value = asPlanned(plan)),
)
watch(
  () => props.tried,
  (turns) => turns && ((done.value = asTried(props.plan, turns)), (editing.value = true)),
)
const { sending, save } = useTurned(() => props.survey)

async function record(): Promise<void> {
  if (!(await save(props.wish, done.value, note.value))) return
  clear()
  await router.push(`/visits/${props.visit.id}/measure`)
}
</script>

<template>
  <el-form class="stack" @submit.prevent="record">
    <div v-if="editing" class="stack edit">
      <p>Put in what you really turned; the next survey is compared with it.</p>
      <div v-for="screw in done" :key="screw.name" class="line">
        <b>{{ screw.name }}</b>
        <ChoiceField v-model="screw.action" :label="`What you did at ${screw.name}`" unnamed>
          <el-option v-for="(word, action) in DONE" :key="action" :value="action" :label="word" />
        </ChoiceField>
        <span v-if="screw.action !== 'leave'" class="row nowrap">
          <el-input-number
            v-model="screw.steps"
            :min="0"
            :max="20 * screw.divisions"
            step-strictly
            class="steps"
            :aria-label="`Steps at ${screw.name}`"
          />
          / {{ screw.divisions }} turn
        </span>
      </div>
      <TextField id="turn-note" v-model="note" label="Note" maxlength="500" />
    </div>
    <TroubleNote v-if="sending.trouble">{{ sending.trouble }}</TroubleNote>
    <div class="row">
      <el-button
        v-if="editing || !stay"
        type="primary"
        size="large"
        native-type="submit"
        :loading="sending.busy"
        >I did this</el-button
      >
      <el-button v-if="!editing" size="large" @click="editing = true">{{
        stay ? 'I turned something all the same' : 'I turned something else'
      }}</el-button>
    </div>
  </el-form>
</template>

<style scoped>
.edit {
  border-top: 1px dashed var(--line-2);
  padding-top: 10px;
}
.line {
  display: grid;
  grid-template-columns: 7.5em minmax(0, 9em) auto;
  gap: 10px;
  align-items: center;
}
.steps {
  width: 9em;
}
.nowrap {
  flex-wrap: nowrap;
}
@media (max-width: 640px) {
  .line {
    grid-template-columns: minmax(0, 1fr) auto;
    gap: 4px 10px;
  }
  .line b {
    grid-column: 1 / -1;
  }
}
</style>
