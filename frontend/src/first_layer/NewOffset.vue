<script setup lang="ts">
// A correction: which way, how far, and the number to type in.
import { computed, ref, watch } from 'vue'
import { send, useSubmit } from '@/api/change'
import type { Schemas } from '@/api/client'
import { attempt, tell } from '@/shell/undo'
import AskDialog from '@/machine/AskDialog.vue'
import { useJob, type JobWish } from '@/machine/jobs'
import { count, figure, mm } from '@/shell/format'

const props = defineProps<{
  found: Schemas['NewOffsetOut']
  trimmed?: boolean
  busy: boolean
  visit: Schemas['VisitOut']
  reason: Schemas['OffsetIn']['reason']
}>()
const emit = defineEmits<{ stored: []; sent: [] }>()
// over the line, where there is one and the value is kept in the printer
const canSend = computed(() => props.visit.printer.port !== '' && props.found.place === 'printer')
const wanted = ref<JobWish | null>(null)
const begun = ref<number | null>(null)
const { data: job } = useJob(begun)
type OverLine = Exclude<Schemas['OffsetIn']['reason'], 'turned' | 'knobs' | 'switch'>
const sendIt = (): void =>
  void (wanted.value = {
    kind: 'offset',
    visit: props.visit.id,
    value: props.found.value!,
    reason: props.reason as OverLine,
    margin: props.found.margin,
  })
watch(
  () => job.value?.state,
  (state) => {
    if (state !== 'done') return
    tell(job.value!.message)
    begun.value = null
    emit('sent')
  },
)
const SAY = {
  feel: 'Feel it first',
  up: 'Go up and feel again',
  lower: 'Lower until it drags',
  type: '',
  leave: '',
} as const
// knobs or switch instead of a number
const byHand = useSubmit(
  'post',
  '/api/printers/{printer_id}/offset',
  () => ({ printer_id: props.visit.printer.id }),
  {
    said: 'Written down. Feel once more, or print a patch.',
    undo: (made) => send('delete', '/api/offsets/{offset_id}', { offset_id: made.id }),
  },
)
const didByHand = () => {
  const one = props.found.by_hand!
  return byHand.submit({
    parts: { ...props.found.parts, [props.found.place]: props.found.before },
    reason: one.reason,
    visit_id: props.visit.id,
    by_hand: one.closer,
    found: { closer: one.closer },
  })
}
const forget = (trial: number) =>
  attempt(() => send('delete', '/api/trials/{trial_id}', { trial_id: trial }), 'Taken back.')
const first = computed(() => (props.found.step ? SAY[props.found.step] : ''))
const leave = computed(() => !first.value && (props.found.enough || props.found.stays))
const title = computed(
  () =>
    first.value ||
    (leave.value ? 'Leave it' : props.trimmed ? `You went ${props.found.way}` : `Go ${props.found.way}`),
)
const typed = computed(() => props.found.step === 'type' || props.found.step === 'leave')
</script>

<template>
  <section class="sheet stack" aria-label="New offset" aria-live="polite">
    <template v-if="found.refused">
      <h2>Do not use this offset</h2>
      <TroubleNote>{{ found.refused }}</TroubleNote>
    </template>
    <template v-else>
      <h2>{{ title }}</h2>
      <p v-if="typed && !leave && found.by_hand" class="type-in">
        {{ found.by_hand.sentence
        }}<template v-if="found.by_hand.turns.length">
          Each <b>{{ found.by_hand.turns[0]!.direction }}</b> as you see it.</template
        >
      </p>
      <p v-if="typed && !leave && found.by_hand && found.by_hand.closer">
        <el-button type="primary" size="large" :loading="byHand.busy" @click="didByHand"
          >I did this</el-button
        >
      </p>
      <CautionNote v-if="typed && !leave && !found.known">
        Write down what stands in the machine now, and ask again: then this gives the number to type in.
      </CautionNote>
      <p v-else-if="typed && !leave" class="type-in">
        {{ found.by_hand ? 'Or type' : 'Type' }} <b class="number">{{ figure(found.value!, true) }}</b> mm
        into {{ found.label }} <span class="quiet">(was {{ figure(found.before, true) }})</span>
      </p>
      <p>{{ found.sentence }}</p>
      <template v-if="found.turns.length"
        ><h3><TermHint term="tilt">For the tilt</TermHint></h3>
        <ul>
          <li v-for="t in found.turns" :key="t">{{ t }}</li>
        </ul></template
      >
      <TroubleNote v-if="byHand.trouble">{{ byHand.trouble }}</TroubleNote>
      <FoldPart v-if="found.clues.length"
        ><template #title
          >What it rests on:
          {{ found.clues.length === 1 ? found.clues[0]!.words : count(found.clues.length, 'record')
          }}<template v-if="found.low !== null && found.high !== null"
            >, between {{ mm(Math.abs(found.low)) }} {{ found.low > 0 ? 'closer' : 'farther' }} and
            {{ mm(Math.abs(found.high)) }} {{ found.high > 0 ? 'closer' : 'farther' }}</template
          ></template
        >
        <ul class="clues">
          <li v-for="(c, i) in found.clues" :key="i">
            {{ c.words }}
            <el-button
              v-if="c.trial !== null"
              text
              size="small"
              :aria-label="`Take back: ${c.words}`"
              @click="forget(c.trial)"
              >Take back</el-button
            >
          </li>
        </ul>
      </FoldPart>
      <div v-if="typed && !leave && found.known" class="row">
        <el-button type="primary" size="large" :loading="busy" @click="$emit('stored')"
          >I stored this</el-button
        >
        <el-button
          v-if="canSend"
          size="large"
          :disabled="busy"
          :loading="begun !== null && job?.state !== 'failed' && job?.state !== 'interrupted'"
          @click="sendIt"
          >Send it to {{ visit.printer.name }}</el-button
        >
      </div>
      <TroubleNote v-if="job && (job.state === 'failed' || job.state === 'interrupted')">
        {{ job.message }}
      </TroubleNote>
      <p v-if="trimmed && !leave && found.known" class="quiet">
        A trim is gone after a restart unless it is stored: in the printer’s menu, or in the profile.
      </p>
    </template>
    <AskDialog
      :printer="visit.printer.id"
      :wanted="wanted"
      @close="wanted = null"
      @begun="begun = $event.id"
    />
  </section>
</template>

<style scoped>
.clues {
  margin: 0;
  padding-left: 1.2em;
}
.type-in {
  font-size: 1.25rem;
}
.type-in b {
  font-size: 1.6rem;
}
</style>
