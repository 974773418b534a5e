<script setup lang="ts">
// Signs: first those that tell most, then all by their groups; each seen, not seen, or not looked for.
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import SignPicture from '@/charts/SignPicture.vue'

type Answer = Schemas['SignOut']['answer']
const props = defineProps<{
  groups: Schemas['SignGroup'][]
  answers: Record<string, Answer>
  /** Signs that tell most, the best first. */
  first?: string[]
  locked?: boolean
}>()
const emit = defineEmits<{ answer: [sign: string, answer: Answer] }>()
const wanted = ref('')
const all = computed(() => props.groups.flatMap((g) => g.signs))
const words = computed(() => wanted.value.toLowerCase().split(/\s+/).filter(Boolean))
const found = computed(() =>
  all.value.filter((s) => words.value.every((w) => `${s.ask} ${s.hint}`.toLowerCase().includes(w))),
)
// the short list stands still while it is worked through
const short = ref([...(props.first ?? [])])
const parts = computed(() =>
  words.value.length
    ? [{ key: 'found', name: 'Found', signs: found.value, open: true }]
    : [
        {
          key: 'first',
          name: 'These tell most',
          signs: short.value.map((k) => all.value.find((s) => s.key === k)!).filter(Boolean),
          open: !props.locked,
        },
        ...props.groups.map((g) => ({ ...g, open: props.locked && told(g.signs) > 0 })),
      ].filter((g) => g.signs.length),
)
const told = (signs: Schemas['SignOut'][]): number =>
  signs.filter((s) => (props.answers[s.key] ?? 'unknown') !== 'unknown').length
const set = (sign: string, now: Answer, wanted: Answer): void =>
  emit('answer', sign, now === wanted ? 'unknown' : wanted)
</script>

<template>
  <!-- eslint-disable vue/no-restricted-html-elements --
  two for each sign, all built at once: kept as light as they can be -->
  <TextField
    v-if="!locked"
    id="find-sign"
    v-model="wanted"
    label="Find a sign"
    placeholder="corners, click, gaps …"
    maxlength="60"
    clearable
  />
  <p v-if="!parts.some((g) => g.signs.length)" class="quiet">No sign is called so.</p>
  <FoldPart v-for="g in parts" :key="g.key" :class="`part-${g.key}`" :open="g.open" :late="!g.open"
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
