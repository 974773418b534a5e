<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import KnobTurn from '@/charts/KnobTurn.vue'
import { figure, mm } from '@/shell/format'

const props = defineProps<{ turns: Schemas['TurnOut'][]; order: string[] }>()
// laid out as the bed is seen from above: back row first, left before right
const rows = computed(() => {
  const middle = props.turns.reduce((sum, t) => sum + t.y, 0) / props.turns.length
  const row = (back: boolean) => props.turns.filter((t) => t.y > middle === back).sort((a, b) => a.x - b.x)
  return [row(true), row(false)].filter((r) => r.length)
})
const VERB = { tighten: 'Tighten', loosen: 'Loosen', leave: 'Leave' } as const
</script>

<template>
  <ol v-for="(row, i) in rows" :key="i" class="turns">
    <li v-for="turn in row" :key="turn.name" :class="turn.action">
      <div class="knob">
        <KnobTurn
          :turns="turn.rounded"
          :direction="turn.direction"
          :figures="turn.figures"
          :leave="turn.action === 'leave'"
          :label="turn.sentence"
        />
      </div>
      <div>
        <h3>
          {{ turn.name }}
          <span
            v-if="order.includes(turn.name) && order.length > 1"
            class="turn-no"
            :aria-label="`number ${order.indexOf(turn.name) + 1}`"
            >{{ order.indexOf(turn.name) + 1 }}</span
          >
        </h3>
        <p class="do">{{ turn.action === 'leave' ? 'Leave it' : `${VERB[turn.action]} ${turn.words}` }}</p>
        <p v-if="turn.action !== 'leave'" class="small">{{ turn.direction }} as you see it</p>
        <p v-if="turn.action !== 'leave'" class="small quiet">
          bed {{ turn.move > 0 ? 'rises' : 'sinks' }} {{ mm(Math.abs(turn.move)) }}<br />wanted
          {{ figure(Math.abs(turn.wanted)) }} ±
          {{ turn.uncertainty * turn.pitch < 0.005 ? 'under 0.01 mm' : mm(turn.uncertainty * turn.pitch) }}
        </p>
        <p v-else class="small quiet">{{ turn.why }}</p>
        <p v-if="turn.short" class="small short">{{ turn.short }}</p>
        <p v-else-if="turn.room && turn.action !== 'leave'" class="small quiet">{{ turn.room }}</p>
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
  grid-template-columns: repeat(auto-fill, minmax(min(100%, 230px), 1fr));
  gap: 12px;
}
li {
  display: grid;
  grid-template-columns: 92px minmax(0, 1fr);
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
.turn-no {
  display: inline-block;
  min-width: 1.5em;
  text-align: center;
  border: 2px solid var(--accent);
  border-radius: 1em;
  color: var(--accent);
  font-size: 0.85rem;
  line-height: 1.3;
}
.short {
  color: var(--act);
  font-weight: 600;
}
h3 {
  color: var(--ink-2);
  font-size: 0.95rem;
}
</style>
