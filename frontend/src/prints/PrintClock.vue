<script setup lang="ts">
// The looks of a print in the order of time: done, missed, due, to come; each look can be taken back.
import { takeAway } from '@/api/change'
import type { Schemas } from '@/api/client'
import { asTime } from '@/shell/format'

const props = defineProps<{ print: Schemas['PrintOut'] }>()
const SEEN: Record<Schemas['PrintLookOut']['seen'], string> = {
  good: 'good',
  unsure: 'not sure',
  stopped: 'stopped',
}
const STATE: Record<Schemas['ClockOut']['state'], string> = {
  done: 'looked at',
  missed: 'not looked at',
  late: 'late',
  due: 'now',
  to_come: 'to come',
}
const said = (one: Schemas['ClockOut']): string =>
  one.at ? `${STATE.done} ${asTime(one.at)}${one.was_late ? ', late' : ''}` : STATE[one.state]
const undo = (look: Schemas['PrintLookOut']): Promise<void> =>
  takeAway('/api/print-looks/{look_id}', { look_id: look.id }, 'The look was taken back.')
const ended = (): boolean => props.print.outcome !== null
</script>

<template>
  <section class="sheet stack" aria-labelledby="clock">
    <h2 id="clock">Looks</h2>
    <ol>
      <li v-for="(one, i) in print.clock" :key="i" :class="one.state">
        <span class="at">{{ asTime(one.due) }}</span><span>{{ one.title }}</span
        ><span class="small">{{ said(one) }}</span>
      </li>
    </ol>
    <p class="small quiet">{{ print.why }}</p>
    <FoldPart v-if="print.looks.length" title="What was seen">
      <ul>
        <li v-for="one in print.looks" :key="one.id">
          <span class="at">{{ asTime(one.at) }}</span><span
            >{{ SEEN[one.seen] }}<template v-if="one.note">: {{ one.note }}</template></span
          ><el-button
            v-if="!ended()"
            size="small"
            text
            :aria-label="`Take back the look at ${asTime(one.at)}`"
            @click="undo(one)"
            >Take back</el-button
          >
        </li>
      </ul>
    </FoldPart>
  </section>
</template>

<style scoped>
ol,
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: 3.4rem 1fr auto;
  gap: 8px;
  align-items: center;
  padding: 5px 0;
  border-top: 1px solid var(--line);
}
.to_come {
  color: var(--ink-2);
}
.due,
.late {
  font-weight: 650;
  background: var(--mild-ground);
}
.missed .small,
.late .small {
  color: var(--act);
}
</style>
