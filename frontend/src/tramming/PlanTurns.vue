<script setup lang="ts">
import type { Schemas } from '@/api/client'
import KnobTurn from '@/drawing/KnobTurn.vue'
import { mm } from '@/shell/format'

defineProps<{ turns: Schemas['TurnOut'][] }>()
const VERB = { tighten: 'Tighten', loosen: 'Loosen', leave: 'Leave' } as const
const small = (turn: Schemas['TurnOut']): string =>
  turn.reason === 'held'
    ? 'held on purpose'
    : turn.reason === 'noise'
      ? `${mm(Math.abs(turn.wanted))} is within its uncertainty of ±${mm(turn.uncertainty * turn.pitch)}`
      : `${mm(Math.abs(turn.wanted))} is not worth a step of ${mm(turn.step)}`
</script>

<template>
  <ol class="turns">
    <li v-for="turn in turns" :key="turn.name" :class="turn.action">
      <div class="knob"><KnobTurn :turns="turn.rounded" :direction="turn.direction" :figures="turn.figures" :leave="turn.action === 'leave'" :label="turn.sentence" /></div>
      <div>
        <h3>{{ turn.name }}</h3>
        <p class="do">{{ turn.action === 'leave' ? 'Leave it' : `${VERB[turn.action]} ${turn.words}` }}</p>
        <p v-if="turn.action !== 'leave'" class="small">{{ turn.direction }} as you see it</p>
        <p v-if="turn.action !== 'leave'" class="small quiet">corner {{ turn.move > 0 ? 'rises' : 'sinks' }} {{ mm(Math.abs(turn.move)) }} (wanted {{ mm(Math.abs(turn.wanted)) }} ± {{ mm(turn.uncertainty * turn.pitch) }})</p>
        <p v-else class="small quiet">{{ small(turn) }}</p>
      </div>
    </li>
  </ol>
</template>

<style scoped>
.turns {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(100%, 250px), 1fr));
  gap: 12px;
}
li {
  display: grid;
  grid-template-columns: 104px minmax(0, 1fr);
  gap: 12px;
  align-items: center;
  border: 1px solid var(--line);
  border-radius: var(--round);
  padding: 8px 10px;
}
.do {
  font-weight: 700;
  font-size: 1.08rem;
  line-height: 1.2;
}
.leave {
  border-style: dashed;
}
h3 {
  color: var(--ink-2);
  font-size: 0.95rem;
}
</style>
