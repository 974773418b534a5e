<script setup lang="ts">
// States of switches, free and while each is pressed.
import type { State, SwitchDraft } from './switchDraft'

defineProps<{ named: string[]; hasLine: boolean }>()
defineEmits<{ read: [row: string | null]; was: [row: string, name: string] }>()
const draft = defineModel<SwitchDraft>({ required: true })
const turn = (state: State | undefined): State => (state === 'open' ? 'triggered' : 'open')
function tapFree(name: string): void {
  draft.value.untouched[name] = turn(draft.value.untouched[name])
}
function tapPressed(row: string, name: string): void {
  const states = (draft.value.pressed[row] ??= { ...draft.value.untouched })
  states[name] = turn(states[name] ?? draft.value.untouched[name])
}
</script>

<template>
  <!-- eslint-disable vue/no-restricted-html-elements --
  a grid where each cell is a tap -->
  <div class="scroll" tabindex="0" aria-label="Table of switch states">
    <table class="plain-table">
      <thead>
        <tr>
          <th></th>
          <th v-for="name in draft.names" :key="name">{{ name }}</th>
          <th v-if="hasLine">ask it</th>
        </tr>
      </thead>
      <tbody>
        <tr>
          <th scope="row">free</th>
          <td v-for="name in draft.names" :key="name">
            <button
              type="button"
              class="cell"
              :class="draft.untouched[name]"
              :aria-label="`${name} while free: ${draft.untouched[name] ?? 'not read'}`"
              @click="tapFree(name)"
            >
              {{ draft.untouched[name] ?? '–' }}
            </button>
          </td>
          <td v-if="hasLine"><el-button size="small" @click="$emit('read', null)">Read</el-button></td>
        </tr>
        <tr v-for="row in named" :key="row">
          <th scope="row">
            <template v-if="draft.pressed[row] && hasLine">
              <ChoiceField
                :label="`What was pressed when ${row} answered`"
                unnamed
                class="narrow"
                :model-value="row"
                @update:model-value="$emit('was', row, $event)"
              >
                <el-option v-for="name in named" :key="name" :value="name" :label="name" />
              </ChoiceField>
              pressed
            </template>
            <template v-else>{{ row }} pressed</template>
          </th>
          <td v-for="name in draft.names" :key="name">
            <button
              type="button"
              class="cell"
              :class="draft.pressed[row]?.[name]"
              :aria-label="`${name} while ${row} is pressed: ${draft.pressed[row]?.[name] ?? 'not read'}`"
              @click="tapPressed(row, name)"
            >
              {{ draft.pressed[row]?.[name] ?? '–' }}
            </button>
          </td>
          <td v-if="hasLine">
            <el-button size="small" :aria-label="`Read while ${row} is pressed`" @click="$emit('read', row)"
              >Read</el-button
            >
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.scroll {
  overflow-x: auto;
}
.cell {
  font: inherit;
  color: var(--ink);
  min-width: 82px;
  min-height: 40px;
  background: var(--el-fill-color-blank);
  border: 1px solid var(--line-2);
  border-radius: var(--round);
  cursor: pointer;
}
.cell.triggered {
  background: var(--act-ground);
  font-weight: 700;
}
.narrow {
  width: 9.5em;
  display: inline-block;
}
</style>
