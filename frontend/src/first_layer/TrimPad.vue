<script setup lang="ts">
// The offset while it prints: each step pressed where the lines are watched, over the line or in the machine's menu.
import { useLocalStorage } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import type { Schemas } from '@/api/client'
import AskDialog from '@/machine/AskDialog.vue'
import { OVER, useJob, type JobWish } from '@/machine/jobs'
import { figure, mm } from '@/shell/format'

const props = defineProps<{ visit: Schemas['VisitOut'] }>()
const emit = defineEmits<{ pressed: []; trouble: [sentence: string] }>()
const trims = defineModel<number[]>({ required: true })
const sum = computed(() => trims.value.reduce((a, b) => a + b, 0))
// over the line one step at a time, each agreed to; without one the person presses it in the printer's own menu
const overLine = useLocalStorage(`finchwort-trim-line-${props.visit.printer.id}`, true)
const wanted = ref<JobWish | null>(null)
const begun = ref<number | null>(null)
const { data: job } = useJob(begun)
let asked = 0
watch(
  () => job.value?.state,
  (state) => {
    if (!state || !OVER.includes(state)) return
    if (state === 'done') count(asked)
    else emit('trouble', job.value!.message)
    begun.value = null
  },
)
const press = (closer: number): void => {
  if (props.visit.printer.port && overLine.value) {
    asked = closer
    wanted.value = { kind: 'trim', visit: props.visit.id, value: closer }
  } else count(closer)
}
const count = (closer: number): void => {
  trims.value = [...trims.value, closer]
  emit('pressed')
}
const unpress = (): void => {
  trims.value = trims.value.slice(0, -1)
  emit('pressed')
}
</script>

<template>
  <div class="stack">
    <p v-if="visit.printer.port && overLine">
      Watch the lines, and press: each step is sent to {{ visit.printer.name }} by itself.
    </p>
    <p v-else>Trim in the printer’s menu while you watch the lines, and press here what you did there.</p>
    <el-switch
      v-if="visit.printer.port"
      v-model="overLine"
      aria-label="Send each step over the line"
      active-text="Send each step over the line"
    />
    <AskDialog
      :printer="visit.printer.id"
      :wanted="wanted"
      @close="wanted = null"
      @begun="begun = $event.id"
    />
    <div class="pad">
      <template v-for="step in [0.01, 0.02, 0.05]" :key="step"
        ><el-button
          :aria-label="`closer by ${figure(step)} mm`"
          class="tile trim"
          :disabled="begun !== null"
          @click="press(step)"
        >
          closer<b>{{ figure(step) }}</b></el-button
        ><el-button
          :aria-label="`farther by ${figure(step)} mm`"
          class="tile trim"
          :disabled="begun !== null"
          @click="press(-step)"
        >
          farther<b>{{ figure(step) }}</b>
        </el-button></template
      >
    </div>
    <div class="row spread">
      <p class="sum" role="status">
        {{
          Math.abs(sum) < 0.0005
            ? 'Nothing trimmed yet'
            : `Together ${mm(Math.abs(sum))} ${sum > 0 ? 'closer' : 'farther'}`
        }}
      </p>
      <el-button :disabled="!trims.length" @click="unpress">Undo the last</el-button>
    </div>
    <CautionNote>
      If the tip touches the plate, stop the print at once.<template
        v-if="visit.printer.compensation === 'mesh'"
      >
        Leave the bed’s knobs alone: turning them now would spoil the stored mesh.</template
      >
    </CautionNote>
    <p v-if="visit.printer.compensation !== 'mesh' && visit.printer.screws.length">
      <RouterLink :to="`/visits/${visit.id}/looks?printing=1`"
        >One corner thinner than the others? Level while it prints</RouterLink
      >
    </p>
  </div>
</template>

<style scoped>
.pad {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
}
.trim {
  font: inherit;
  font-size: 1.15rem;
  min-height: 62px;
  display: flex;
  gap: 10px;
  justify-content: center;
  align-items: center;
  color: var(--ink);
  background: var(--sheet-2);
  border: 1px solid var(--line-2);
  border-radius: var(--round);
  cursor: pointer;
}
.sum {
  font-size: 1.15rem;
  font-weight: 650;
}
</style>
