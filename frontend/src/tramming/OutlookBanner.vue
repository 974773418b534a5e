<script setup lang="ts">
// Turn, leave it, or measure again first: with the tilt, its plus/minus, and the chance.
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { figure, mm } from '@/shell/format'

const props = defineProps<{ outlook: Schemas['OutlookOut']; done: boolean }>()
const TITLES = {
  turn: 'Turn like this',
  leave: 'Leave all screws as they are',
  measure: 'Measure again first',
} as const
const kind = computed(() =>
  props.done && props.outlook.decision === 'turn' ? 'leave' : props.outlook.decision,
)
</script>

<template>
  <div class="outlook" :class="kind">
    <h2>{{ TITLES[kind] }}</h2>
    <dl v-if="kind === 'turn'" class="figures">
      <div>
        <dt>Tilt now</dt>
        <dd>
          {{ figure(outlook.tilt_now) }} <span class="quiet">± {{ mm(outlook.now_margin) }}</span>
        </dd>
      </div>
      <div>
        <dt>Afterwards</dt>
        <dd>
          {{ figure(outlook.tilt_after) }} <span class="quiet">± {{ mm(outlook.after_margin) }}</span>
        </dd>
      </div>
      <div>
        <dt>Chance that this is enough</dt>
        <dd>{{ outlook.chance_words }}</dd>
      </div>
    </dl>
    <p v-else>{{ outlook.sentence }}</p>
  </div>
</template>

<style scoped>
.outlook.measure {
  background: var(--mild-ground);
  border-left: 4px solid var(--mild);
  padding: 8px 12px;
}
.figures {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 28px;
  margin: 6px 0 0;
}
dt {
  font-size: 0.88rem;
  color: var(--ink-2);
}
dd {
  margin: 0;
  font-family: var(--head);
  font-weight: 650;
  font-size: 1.2rem;
}
dd .quiet {
  font-size: 0.95rem;
  font-weight: 500;
}
</style>
