<script setup lang="ts">
// After something happened: what is to be done, in order.  What is recorded ticks itself off.
import { computed } from 'vue'
import { call } from '@/api/ask'
import { send, useSending } from '@/api/change'
import type { Schemas } from '@/api/client'

const props = defineProps<{
  printer: number
  line?: boolean
  visit: number | null
  after: Schemas['AfterOut']
}>()
type Step = Schemas['AfterStepOut']
const first = computed(() => props.after.steps.find((step) => !step.done) ?? null)
const at = () => ({ printer_id: props.printer })
const undo = (made: { id: number }) => send('delete', '/api/changes/{change_id}', { change_id: made.id })
const ticks = useSending({ aloud: true })
const rest = useSending({ aloud: true })
const PLACES: Record<string, string> = {
  trust: 'trust',
  level: 'measure',
  offset: 'offset',
  mesh: 'compensate',
  print: 'first-layer',
}
const WORDS: Record<string, string> = {
  trust: 'To the test',
  level: 'To measuring',
  offset: 'To the Z offset',
  mesh: 'To the mesh',
  print: 'To the test print',
}
const place = (step: Step): string | null =>
  props.visit !== null && PLACES[step.name] ? `/visits/${props.visit}/${PLACES[step.name]}` : null
const did = (step: Step) =>
  ticks.run(
    (client_key) =>
      call('post', '/api/printers/{printer_id}/after', at(), {
        client_key,
        step: step.name,
        visit_id: props.visit,
      }),
    `Done: ${step.title}.`,
    undo,
  )
const skip = () =>
  rest.run(
    (client_key) =>
      call('post', '/api/printers/{printer_id}/after/leave-out', at(), { client_key, visit_id: props.visit }),
    'The rest is left out. What is in doubt stays so.',
    undo,
  )
</script>

<template>
  <FoldPart class="sheet after" :open="first?.by_hand || visit === null"
    ><template #title
      ><b>{{ after.title }}</b
      >{{ ' '
      }}<span class="quiet small state"
        >{{ after.steps.length - after.left }} of {{ after.steps.length }} done<template v-if="first"
          >, next: {{ first.title }}</template
        ></span
      ></template
    >
    <ol>
      <li v-for="step in after.steps" :key="step.name" :class="{ done: step.done, now: step === first }">
        <svg viewBox="0 0 24 24" width="24" height="24" aria-hidden="true">
          <rect x="3" y="3" width="18" height="18" rx="4" class="box" />
          <path v-if="step.done" d="M7 12.5l3.5 3.5L17 8.5" class="sign" />
        </svg>
        <div class="what">
          <p>
            <b>{{ step.title }}</b><span class="visually-hidden">{{ step.done ? ', done' : ', to do' }}</span>
          </p>
          <template v-if="step === first">
            <p>{{ step.how }}</p>
            <CautionNote v-if="step.caution">{{ step.caution }}</CautionNote>
            <div class="row">
              <el-button v-if="step.by_hand" type="primary" :loading="ticks.busy" @click="did(step)"
                >Done</el-button
              >
              <RouterLink
                v-else-if="place(step)"
                class="el-button el-button--primary go"
                :to="place(step)!"
                >{{ WORDS[step.name] }}</RouterLink
              >
              <p v-else-if="PLACES[step.name]" class="quiet small">Start a visit for this.</p>
              <RouterLink
                v-if="line && ['home', 'values'].includes(step.name)"
                :to="`/printers/${printer}/machine`"
                >At the line</RouterLink
              >
            </div>
          </template>
        </div>
        <el-button
          v-if="step.by_hand && !step.done && step !== first"
          text
          size="small"
          :aria-label="`Done: ${step.title}`"
          @click="did(step)"
          >Done</el-button
        >
      </li>
    </ol>
    <p>
      <el-button text size="small" :loading="rest.busy" @click="skip">Leave out the rest</el-button>
    </p>
  </FoldPart>
</template>

<style scoped>
.after {
  border-left: 4px solid var(--act);
}
.state {
  margin-left: 10px;
}
ol {
  list-style: none;
  margin: 8px 0 0;
  padding: 0;
}
li {
  display: flex;
  gap: 10px;
  align-items: flex-start;
  padding: 6px 0;
  border-top: 1px solid var(--line);
}
li svg {
  flex: none;
}
.what {
  flex: 1;
  display: flex;
  flex-direction: column;
  gap: 6px;
}
.done {
  color: var(--ink-2);
}
.box {
  fill: none;
  stroke: var(--line-2);
  stroke-width: 2;
}
.done .box,
.sign {
  stroke: var(--good);
}
.sign {
  fill: none;
  stroke-width: 2.4;
}
.now .box {
  stroke: var(--act);
}
.go {
  text-decoration: none;
}
</style>
