<script setup lang="ts">
// Signs by their groups, each seen, not seen, or not looked for.
import type { Schemas } from '@/api/client'
import SignPicture from '@/charts/SignPicture.vue'

type Answer = Schemas['SignOut']['answer']
defineProps<{
  groups: Schemas['SignGroup'][]
  answers: Record<string, Answer>
  open?: number
  locked?: boolean
}>()
const emit = defineEmits<{ answer: [sign: string, answer: Answer] }>()
const set = (sign: string, now: Answer, wanted: Answer): void =>
  emit('answer', sign, now === wanted ? 'unknown' : wanted)
</script>

<template>
  <!-- eslint-disable vue/no-restricted-html-elements --
  two for each sign, all built at once: kept as light as they can be -->
  <FoldPart
    v-for="(g, i) in groups"
    :key="g.key"
    :open="i < (open ?? 0) || g.signs.some((s) => answers[s.key] && answers[s.key] !== 'unknown')"
    ><template #title
      >{{ g.name
      }}<span v-if="g.signs.some((s) => answers[s.key] === 'yes')" class="quiet">
        · {{ g.signs.filter((s) => answers[s.key] === 'yes').length }} seen</span
      ></template
    >
    <ul>
      <li v-for="s in g.signs" :key="s.key" :class="answers[s.key]">
        <SignPicture v-if="s.drawing" :drawing="s.drawing" />
        <span class="words"
          ><b>{{ s.ask }}</b
          ><span v-if="s.hint" class="quiet small">{{ s.hint }}</span></span
        >
        <span class="pick" role="group" :aria-label="s.ask">
          <button
            type="button"
            :disabled="locked"
            :aria-pressed="answers[s.key] === 'yes'"
            :aria-label="`${s.ask}: yes`"
            @click="set(s.key, answers[s.key] ?? 'unknown', 'yes')"
          >
            Yes
          </button>
          <button
            type="button"
            :disabled="locked"
            :aria-pressed="answers[s.key] === 'no'"
            :aria-label="`${s.ask}: no`"
            @click="set(s.key, answers[s.key] ?? 'unknown', 'no')"
          >
            No
          </button>
        </span>
      </li>
    </ul>
  </FoldPart>
</template>

<style scoped>
.fold {
  border-top: 1px solid var(--line);
}
ul {
  list-style: none;
  margin: 0;
  padding: 0 0 8px;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(100%, 330px), 1fr));
  gap: 6px 18px;
}
li {
  display: flex;
  align-items: center;
  gap: 10px;
  min-height: 48px;
}
.words {
  flex: 1;
  display: flex;
  flex-direction: column;
  line-height: 1.25;
}
.pick {
  display: flex;
  gap: 4px;
}
.pick button {
  font: inherit;
  min-width: 48px;
  min-height: 44px;
  color: var(--ink);
  background: var(--sheet);
  border: 1px solid var(--line-2);
  border-radius: var(--round);
  cursor: pointer;
}
.pick button[aria-pressed='true'] {
  background: var(--accent);
  color: var(--sheet);
  font-weight: 650;
}
</style>
