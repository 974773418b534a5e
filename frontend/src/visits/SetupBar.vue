<script setup lang="ts">
// What a visit hangs on, in one line; a tap changes it.
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import { later } from '@/components/later'
import { degrees, mm } from '@/shell/format'

const SetupDialog = later(() => import('./SetupDialog.vue'))
const props = defineProps<{ visit: Schemas['VisitOut'] }>()
const open = ref(false)
const asked = ref(false)
const facts = computed(() => [
  { name: 'Surface', value: props.visit.surface || '–' },
  { name: 'Material', value: props.visit.material || '–' },
  { name: 'Bed', value: degrees(props.visit.bed_temperature) },
  { name: 'Nozzle', value: degrees(props.visit.nozzle_temperature) },
  { name: 'First layer', value: mm(props.visit.first_layer) },
])
function edit(): void {
  asked.value = true
  open.value = true
}
</script>

<template>
  <div class="setup">
    <component
      :is="visit.ended_at ? 'div' : 'button'"
      :type="visit.ended_at ? undefined : 'button'"
      class="facts"
      :aria-label="visit.ended_at ? undefined : 'Change surface, material, temperatures and first layer'"
      @click="visit.ended_at || edit()"
    >
      <span v-for="fact in facts" :key="fact.name" class="fact"
        ><span class="quiet small what">{{ fact.name }}</span> <b>{{ fact.value }}</b></span
      >
      <span v-if="!visit.ended_at" class="change">Change</span>
    </component>
    <component :is="SetupDialog" v-if="asked" v-model="open" :visit="visit" />
  </div>
</template>

<style scoped>
.facts {
  font: inherit;
  color: var(--ink);
  display: flex;
  flex-wrap: wrap;
  gap: 2px 22px;
  align-items: baseline;
  width: 100%;
  text-align: left;
  background: transparent;
  border: 1px solid var(--line);
  border-radius: var(--round);
  padding: 8px 14px;
  cursor: pointer;
  min-height: 44px;
}
div.facts {
  cursor: auto;
}
button.facts:hover {
  background: var(--sheet);
}
.change {
  margin-left: auto;
  color: var(--accent);
  text-decoration: underline;
}
.fact {
  white-space: nowrap;
}
/* one line on a phone: what each value is, its unit says */
@media (max-width: 640px) {
  .setup {
    min-width: 0;
  }
  .facts {
    flex-wrap: nowrap;
    align-items: center;
    gap: 9px;
    padding: 6px 10px;
    font-size: 0.9rem;
    position: relative;
  }
  .fact:first-child {
    flex: 0 1 auto;
    min-width: 2em;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .what {
    position: absolute;
    width: 1px;
    height: 1px;
    overflow: hidden;
    clip-path: inset(50%);
  }
}
</style>
