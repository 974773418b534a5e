<script setup lang="ts">
// What to do next with a case: go on with the remedy under way, try one, or look at what tells most for its minutes.
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'

const props = defineProps<{ found: Schemas['CaseOut']; busy: boolean }>()
defineEmits<{
  ended: [came: Schemas['OutcomeIn']['came']]
  begin: [cause: string]
  came: [check: string, outcome: string]
}>()
const other = ref<string | null>(null)
const offer = computed(
  () =>
    all.value.find((p) => p.key === other.value) ??
    props.found.proposals[0] ??
    (looking.value ? all.value[0] : null) ??
    null,
)
const all = computed(() => [...props.found.proposals, ...props.found.more])
const looking = ref(false)
const remedy = computed(() => (looking.value ? null : props.found.remedy))
const percent = (p: number): string => `${Math.round(100 * p)} %`
/** What was looked at is known now. */
function seen(): void {
  other.value = null
  looking.value = false
}
defineExpose({ seen })
</script>

<template>
  <section v-if="found.under_way" class="sheet stack now" aria-label="Under way">
    <h2>
      You are trying:
      {{
        found.under_way.wanted.what
          ? `${found.under_way.wanted.what} ${found.under_way.wanted.after}`
          : found.under_way.name.toLowerCase()
      }}
    </h2>
    <p><b>Leave as it is:</b> {{ found.under_way.keep || 'everything else.' }}</p>
    <p><b>If this is it:</b> {{ found.under_way.wanted.prediction }}</p>
    <p v-if="found.under_way.redo" class="quiet">{{ found.under_way.redo }}</p>
    <CautionNote v-if="found.under_way.others.length">
      Changed with it: {{ found.under_way.others.join(', ') }}. If it gets better, nobody can say which one
      did it.
    </CautionNote>
    <CautionNote v-if="found.under_way.caution">{{ found.under_way.caution }}</CautionNote>
    <div class="row">
      <el-button type="primary" size="large" @click="$emit('ended', 'better')">It is better</el-button
      ><el-button size="large" @click="$emit('ended', 'little')">A little better</el-button
      ><el-button size="large" @click="$emit('ended', 'not_better')">No better</el-button>
    </div>
  </section>
  <section v-else-if="remedy && !found.closed" class="sheet stack now" aria-label="Next step">
    <div class="row spread">
      <h2>{{ found.again ? 'Once more, with care' : 'Next: try the remedy' }}</h2>
      <span class="quiet small">{{ remedy.minutes }} min</span>
    </div>
    <p class="quiet small">For: {{ remedy.name.toLowerCase() }}</p>
    <p v-if="found.again">
      It did not help the first time, and nothing else is left that is worth trying: it may have been done in
      passing.
    </p>
    <p class="say">{{ remedy.remedy }}</p>
    <p v-if="remedy.wanted.what">
      <b>{{ remedy.wanted.what }}:</b> {{ remedy.wanted.before ? `${remedy.wanted.before} → ` : ''
      }}{{ remedy.wanted.after }}
    </p>
    <p><b>Leave as it is:</b> {{ remedy.keep || 'everything else.' }}</p>
    <p v-if="remedy.redo" class="quiet">{{ remedy.redo }}</p>
    <FoldPart v-if="remedy.schools.length" title="Where practitioners disagree" class="small">
      <p v-for="s in remedy.schools" :key="s.name">
        <b>{{ s.name }}.</b> {{ s.when }} <span class="quiet">{{ s.mind }}</span>
      </p>
    </FoldPart>
    <p v-if="remedy.page">
      <RouterLink :to="remedy.page.path">{{ remedy.page.name }}</RouterLink>
    </p>
    <CautionNote v-if="remedy.caution">{{ remedy.caution }}</CautionNote>
    <div class="row">
      <el-button type="primary" size="large" :loading="busy" @click="$emit('begin', remedy.key)"
        >I try this</el-button
      ><el-button v-if="all.length" size="large" @click="looking = true">Look further first</el-button>
    </div>
  </section>
  <section
    v-else-if="found.next === 'done' && !found.closed && !looking"
    class="sheet stack now"
    aria-label="Next step"
  >
    <h2>It is better: close the case</h2>
    <p>Say below what it was. Was it not that? Then look further.</p>
    <p><el-button @click="looking = true">Look further</el-button></p>
  </section>
  <section
    v-else-if="found.next === 'nothing' && !found.closed && !looking"
    class="sheet stack now"
    aria-label="Next step"
  >
    <h2>Nothing that is known here is left to try</h2>
    <p>
      Ask others: say machine, material, surface and temperatures, what was measured, and what was tried one
      at a time. All of it stands below. Or close the case without its cause.
    </p>
    <p v-if="all.length">
      <el-button @click="looking = true">Look at what else could be checked</el-button>
    </p>
  </section>
  <section
    v-else-if="offer && !found.closed && !(found.alarm && !found.alarm.dealt_with)"
    class="sheet stack now"
    aria-label="Next check"
  >
    <div class="row spread">
      <h2>Next: {{ offer.title.charAt(0).toLowerCase() + offer.title.slice(1) }}</h2>
      <span class="quiet small">{{ offer.minutes }} min · {{ offer.risk_words }}</span>
    </div>
    <p class="say">{{ offer.how }}</p>
    <p v-if="offer.page">
      <RouterLink :to="offer.page.path">{{ offer.page.name }}</RouterLink>
    </p>
    <CautionNote v-if="offer.caution">{{ offer.caution }}</CautionNote>
    <div class="outcomes">
      <el-button
        v-for="m in offer.meanings"
        :key="m.key"
        class="tile outcome"
        @click="$emit('came', offer.key, m.key)"
      >
        <b>{{ m.words.charAt(0).toUpperCase() + m.words.slice(1) }}</b><span class="quiet small"
          >then {{ m.cause.toLowerCase() }}: {{ percent(m.then) }}</span
        >
      </el-button>
    </div>
    <p class="quiet small">{{ offer.why }}</p>
    <FoldPart v-if="all.length > 1" title="Do another one" class="small">
      <div class="row">
        <el-button
          v-for="p in all"
          :key="p.key"
          size="small"
          :disabled="p.key === offer.key"
          @click="other = p.key"
          >{{ p.title }} ({{ p.minutes }} min)</el-button
        >
      </div>
    </FoldPart>
  </section>
</template>

<style scoped>
.now {
  border-left: 4px solid var(--accent);
}
.say {
  font-size: 1.12rem;
}
.outcomes {
  display: grid;
  gap: 8px;
}
.outcome {
  font: inherit;
  text-align: left;
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  justify-content: space-between;
  align-items: center;
  min-height: 50px;
  padding: 8px 14px;
  color: var(--ink);
  background: var(--sheet-2);
  border: 1px solid var(--line-2);
  border-radius: var(--round);
  cursor: pointer;
}
.outcome:hover {
  border-color: var(--accent);
}
</style>
