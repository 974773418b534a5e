<script setup lang="ts">
// The tests of one kind in this visit, newest first.
import type { Schemas } from '@/api/client'
import { asTime } from '@/shell/format'
import { WAYS } from '@/surveys/edges'
import { dropTest } from './tests'

const props = defineProps<{
  visit: Schemas['VisitOut']
  kind: Schemas['TestOut']['kind']
  shown: number | null
}>()
defineEmits<{ show: [id: number] }>()
const mine = (): Schemas['TestOut'][] => props.visit.tests.filter((t) => t.kind === props.kind).toReversed()
</script>

<template>
  <section v-if="mine().length" class="sheet stack" aria-label="Tests of this visit">
    <h3>In this visit</h3>
    <ul>
      <li v-for="test in mine()" :key="test.id" class="row spread">
        <el-button
          link
          type="primary"
          class="pick"
          :aria-pressed="shown === test.id"
          @click="$emit('show', test.id)"
        >
          {{ asTime(test.taken_at) }}: {{ test.word }}
        </el-button>
        <span class="small quiet grow"
          >{{ test.figures }}{{ test.data.direction ? `, ${WAYS[test.data.direction]}` : ''
          }}{{ test.source === 'printer' ? ', by the printer' : '' }}</span
        >
        <el-button
          v-if="!visit.ended_at"
          text
          size="small"
          :aria-label="`Delete the test of ${asTime(test.taken_at)}`"
          @click="dropTest(test.id)"
          >Delete</el-button
        >
      </li>
    </ul>
  </section>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  border-top: 1px solid var(--line);
  padding: 4px 0;
}
.pick {
  min-height: 44px;
  font-weight: 600;
  white-space: normal;
  text-align: left;
  text-decoration: underline;
}
.pick[aria-pressed='true'] {
  color: var(--ink);
  text-decoration: none;
}
.grow {
  flex: 1;
}
</style>
