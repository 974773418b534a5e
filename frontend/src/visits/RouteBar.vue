<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { NAMES } from './steps'

defineProps<{ route: Schemas['StepOut'][]; visit: number; active: string }>()
const STATES = {
  to_do: 'to do',
  doing: 'now',
  done: 'done',
  skipped: 'skipped',
  out_of_date: 'out of date',
} as const
</script>

<template>
  <nav aria-label="Route of this visit" class="route no-print">
    <ol>
      <li v-for="(step, i) in route" :key="step.name" :class="[step.state, { here: step.name === active }]">
        <RouterLink
          :to="`/visits/${visit}/${step.name}`"
          :aria-current="step.name === active ? 'step' : undefined"
          :title="step.why"
        >
          <svg viewBox="0 0 24 24" width="26" height="26" aria-hidden="true">
            <circle cx="12" cy="12" r="10" class="post" />
            <path v-if="step.state === 'done'" d="M7 12.5l3.5 3.5L17 8.5" class="sign" />
            <path
              v-else-if="step.state === 'out_of_date'"
              d="M16.5 12a4.5 4.5 0 1 1-1.6-3.4M15.2 5.6v3.2H12"
              class="sign"
            />
            <path v-else-if="step.state === 'skipped'" d="M7.5 12h9" class="sign" />
            <circle v-else-if="step.state === 'doing'" cx="12" cy="12" r="4" class="dot" />
            <text v-else x="12" y="16.4" text-anchor="middle" font-size="12" class="digit">{{ i + 1 }}</text>
          </svg>
          <span class="words"
            ><b>{{ NAMES[step.name] }}</b
            ><span class="state">{{ STATES[step.state] }}</span></span
          >
        </RouterLink>
      </li>
    </ol>
  </nav>
</template>

<style scoped>
ol {
  display: flex;
  list-style: none;
  margin: 0;
  padding: 0;
  border: 1px solid var(--line);
  border-radius: var(--round);
  background: var(--sheet);
  overflow: hidden;
}
li {
  flex: 1;
  /* what is said only to those who do not see it stays within its step */
  position: relative;
  border-left: 1px dashed var(--line-2);
}
li:first-child {
  border-left: 0;
}
a {
  display: flex;
  gap: 6px;
  align-items: center;
  padding: 8px 6px;
  color: var(--ink);
  text-decoration: none;
  border-bottom: 4px solid transparent;
  height: 100%;
}
a:focus-visible {
  outline-offset: -4px;
}
.here a {
  border-color: var(--accent);
  background: var(--sheet-2);
}
.words {
  display: flex;
  flex-direction: column;
  line-height: 1.2;
}
.state {
  font-size: 0.84rem;
  white-space: nowrap;
  color: var(--ink-2);
}
.out_of_date .state {
  color: var(--act);
  font-weight: 600;
}
svg {
  flex: none;
}
.post {
  fill: none;
  stroke: var(--line-2);
  stroke-width: 2;
}
.sign {
  fill: none;
  stroke: var(--ink-2);
  stroke-width: 2.2;
}
.done .post {
  stroke: var(--good);
}
.done .sign {
  stroke: var(--good);
}
.doing .post {
  stroke: var(--accent);
}
.dot {
  fill: var(--accent);
}
.out_of_date .post,
.out_of_date .sign {
  stroke: var(--act);
}
.digit {
  fill: var(--ink-2);
}
@media (max-width: 640px) {
  a {
    flex-direction: column;
    gap: 2px;
    padding: 6px 2px;
    text-align: center;
  }
  .words {
    font-size: 0.7rem;
  }
  /* the sign says the state; there is no room to say it twice */
  .state {
    position: absolute;
    width: 1px;
    height: 1px;
    overflow: hidden;
    clip-path: inset(50%);
  }
}
/* enlarged four times the steps pass by rather than shrink */
@media (max-width: 360px) {
  ol {
    overflow-x: auto;
  }
  li {
    min-width: 46px;
  }
}
</style>
