<script setup lang="ts">
// What to change before it is started, and why; each with its line in the file.
import { type Schemas } from '@/api/client'

defineProps<{ file: Schemas['FileOut'] }>()
const SIGNS = { change: '▲', ask: '?', mind: '◆', good: '●' } as const
const WORDS = { change: 'Change', ask: 'Question', mind: 'Mind', good: 'Good' } as const
</script>

<template>
  <section class="sheet stack comes-first" aria-label="Before you start it">
    <h2>{{ file.sentence }}</h2>
    <ul>
      <li v-for="one in file.findings" :key="one.code + one.line" :class="one.weight">
        <span class="sign" aria-hidden="true">{{ SIGNS[one.weight] }}</span>
        <span
          ><span class="visually-hidden">{{ WORDS[one.weight] }}: </span>{{ one.sentence
          }}<span v-if="one.line" class="quiet small">
            Line&nbsp;{{ one.line.toLocaleString('en') }}</span
          ></span
        >
      </li>
    </ul>
    <p v-if="!file.findings.length" class="quiet">
      Temperatures, speed, width, fan, brims, start code and the edges of the bed were looked at.
    </p>
  </section>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: flex;
  gap: 10px;
  padding: 7px 0;
  border-top: 1px solid var(--line);
}
.sign {
  flex: none;
  width: 1em;
  text-align: center;
}
.change .sign {
  color: var(--bad);
}
.ask .sign,
.mind .sign {
  color: var(--mild);
}
</style>
