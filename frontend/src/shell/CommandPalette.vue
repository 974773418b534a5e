<script setup lang="ts">
// Type some letters, go there: printers, visits, their steps, cases, pages, terms.  The kit has no such list, so its
// field and its dialog are joined here by the roles of a combobox with a list.
import { refDebounced } from '@vueuse/core'
import { computed, nextTick, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useCases, useMe, useTerms, useVisit, useWorkshop } from '@/api/shown'
import { NAMES } from '@/visits/steps'
import { fitting, type Goal } from './find'
import { placesFor } from './places'
import { finding, helpOpen } from './shortcuts'
import { isDark, toggleTheme } from './theme'

const router = useRouter()
const route = useRoute()
const text = ref('')
const at = ref(0)
const { data: me } = useMe()
const { data: workshop } = useWorkshop()
const visitId = computed(() => (route.path.startsWith('/visits/') ? Number(route.params.id) : null))
const { data: visit } = useVisit(visitId)
const { data: terms } = useTerms()
const { data: cases } = useCases(refDebounced(text, 200))

const goals = computed<Goal[]>(() => [
  ...(visit.value?.route ?? []).map((step) => ({
    key: `step-${step.name}`,
    name: NAMES[step.name],
    says: `Step of this visit at ${visit.value!.printer.name}`,
    kind: 'step',
    to: `/visits/${visit.value!.id}/${step.name}`,
  })),
  ...(workshop.value?.cards ?? []).flatMap((card) => [
    ...(card.open_visit
      ? [
          {
            key: `visit-${card.open_visit}`,
            name: `${card.printer.name}: open visit`,
            says: 'Go on where you were',
            kind: 'visit',
            to: `/visits/${card.open_visit}`,
          },
        ]
      : []),
    {
      key: `printer-${card.printer.id}`,
      name: card.printer.name,
      says: 'Its visits, drift and set-up',
      kind: 'printer',
      to: `/printers/${card.printer.id}`,
    },
    {
      key: `new-case-${card.printer.id}`,
      name: `New case on ${card.printer.name}`,
      says: 'It does not stick',
      kind: 'case',
      to: `/printers/${card.printer.id}/cases/new`,
    },
  ]),
  ...placesFor(me.value?.may.includes('own') ?? false).flatMap(({ places }) =>
    places.map((one) => ({ key: one.to, name: one.name, says: one.says, kind: 'page', to: one.to })),
  ),
  ...(cases.value?.pages ?? []).flatMap((page) =>
    page.cases.map((one) => ({
      key: `case-${one.id}`,
      name: one.words || 'A first layer that does not stick',
      says: one.printer,
      kind: 'case',
      to: `/cases/${one.id}`,
    })),
  ),
  ...(terms.value?.terms ?? []).map((one) => ({
    key: `term-${one.key}`,
    name: one.name,
    says: one.also.length ? `Also ${one.also.join(', ')}` : one.says,
    kind: 'term',
    to: `/terms#${one.key}`,
  })),
  {
    key: 'ground',
    name: isDark.value ? 'Light ground' : 'Dark ground',
    says: 'Change the colours of the pages',
    kind: 'do',
    act: toggleTheme,
  },
  { key: 'keys', name: 'Keys', says: 'All shortcuts', kind: 'do', act: () => (helpOpen.value = true) },
])
const found = computed(() => fitting(goals.value, text.value))
watch(text, () => (at.value = 0))

// the kit's field keeps a role to itself, so it is given to the element inside
const field = ref<{ input?: HTMLInputElement; focus: () => void } | null>(null)
function ready(): void {
  field.value?.input?.setAttribute('role', 'combobox')
  field.value?.focus()
}
function step(by: number): void {
  at.value = (at.value + by + found.value.length) % Math.max(1, found.value.length)
  void nextTick(() => document.getElementById(`goal-${at.value}`)?.scrollIntoView({ block: 'nearest' }))
}
function go(goal: Goal | undefined): void {
  if (!goal) return
  finding.value = false
  text.value = ''
  if (goal.to) void router.push(goal.to)
  else goal.act?.()
}
</script>

<template>
  <el-dialog v-model="finding" title="Find" width="min(94vw, 560px)" top="8vh" append-to-body @opened="ready">
    <el-input
      ref="field"
      v-model="text"
      size="large"
      placeholder="A printer, a step, a case, a page, a term"
      aria-label="Find"
      aria-expanded="true"
      aria-controls="goals"
      :aria-activedescendant="found.length ? `goal-${at}` : undefined"
      autocomplete="off"
      @keydown.down.prevent="step(1)"
      @keydown.up.prevent="step(-1)"
      @keydown.enter.prevent="go(found[at])"
    />
    <ul id="goals" role="listbox" aria-label="What fits">
      <li
        v-for="(goal, i) in found"
        :id="`goal-${i}`"
        :key="goal.key"
        role="option"
        :aria-selected="i === at"
        :class="{ on: i === at }"
        @click="go(goal)"
        @pointermove="at = i"
      >
        <span
          ><b>{{ goal.name }}</b> <span class="quiet small">{{ goal.says }}</span></span
        ><span class="quiet small">{{ goal.kind }}</span>
      </li>
    </ul>
    <p v-if="!found.length" class="quiet" role="status">Nothing here is called that.</p>
  </el-dialog>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 8px 0 0;
  padding: 0;
  max-height: 56vh;
  overflow-y: auto;
}
li {
  display: flex;
  justify-content: space-between;
  gap: 12px;
  align-items: baseline;
  min-height: 44px;
  padding: 10px 8px;
  border-top: 1px solid var(--line);
  cursor: pointer;
}
li.on {
  background: var(--sheet-2);
  box-shadow: inset 4px 0 var(--accent);
}
</style>
