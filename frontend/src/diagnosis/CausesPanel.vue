<script setup lang="ts">
// Ranked causes, with what speaks for and against each, and the remedy as one change.
import { ref } from 'vue'
import type { Schemas } from '@/api/client'

defineProps<{ found: Schemas['CaseOut']; busy: boolean }>()
const emit = defineEmits<{ remedy: [cause: string, others: string[]]; close: [cause: string] }>()
const percent = (p: number): string => (p < 0.01 ? 'under 1 %' : `${Math.round(100 * p)} %`)
const others = ref('')
const open = ref<string | null>(null)
const WORD = { strongly: 'strongly', clearly: 'clearly', somewhat: 'somewhat' } as const
function begin(cause: string): void {
  emit(
    'remedy',
    cause,
    others.value
      .split(/[,;]/)
      .map((t) => t.trim())
      .filter(Boolean),
  )
  others.value = ''
  open.value = null
}
</script>

<template>
  <ol class="causes">
    <li v-for="(c, i) in found.ranked" :key="c.key" :class="{ first: i === 0 }">
      <div class="row spread">
        <b>{{ c.name }}</b><span class="number">{{ percent(c.probability) }}</span>
      </div>
      <div class="bar" aria-hidden="true">
        <span :style="{ width: `${Math.max(1, 100 * c.probability)}%` }" />
      </div>
      <ul v-if="i < 3 && (c.speaks_for.length || c.against.length)" class="reasons small">
        <li v-for="r in c.speaks_for.slice(0, 4)" :key="r.words">
          <span class="sign for" aria-hidden="true">+</span
          ><span
            >{{ r.words }} <span class="quiet">speaks {{ WORD[r.strength] }} for it</span></span
          >
        </li>
        <li v-for="r in c.against.slice(0, 3)" :key="r.words">
          <span class="sign against" aria-hidden="true">−</span
          ><span
            >{{ r.words }} <span class="quiet">speaks {{ WORD[r.strength] }} against it</span></span
          >
        </li>
      </ul>
      <FoldPart
        v-if="!found.closed"
        title="Remedy"
        class="small"
        :open="open === c.key"
        @toggle="$event && (open = c.key)"
      >
        <div class="stack">
          <p>{{ c.remedy }}</p>
          <p v-if="c.wanted.what">
            <b>{{ c.wanted.what }}:</b> {{ c.wanted.before ? `${c.wanted.before} → ` : ''
            }}{{ c.wanted.after }}
          </p>
          <p><b>Leave as it is:</b> {{ c.keep || 'everything else.' }}</p>
          <p><b>If this is it:</b> {{ c.wanted.prediction }}</p>
          <p v-if="c.redo" class="quiet">{{ c.redo }}</p>
          <p v-for="s in c.schools" :key="s.name">
            <b>{{ s.name }}.</b> {{ s.when }} <span class="quiet">{{ s.mind }}</span>
          </p>
          <CautionNote v-if="c.caution">{{ c.caution }}</CautionNote>
          <template v-if="!found.under_way && !(found.alarm && !found.alarm.dealt_with)">
            <TextField
              :id="`others-${c.key}`"
              v-model="others"
              label="Changed at the same time, if anything"
              placeholder="nothing"
              maxlength="200"
            />
            <CautionNote v-if="others.trim()">
              Two changes at once: if it gets better, nobody can say which one did it.
            </CautionNote>
            <div class="row">
              <el-button type="primary" :loading="busy" @click="begin(c.key)">I try this</el-button
              ><el-button @click="emit('close', c.key)">It was this: close</el-button>
            </div>
          </template>
        </div>
      </FoldPart>
    </li>
  </ol>
  <p v-if="found.shares" class="quiet small">{{ found.shares }}</p>
</template>

<style scoped>
.causes {
  list-style: none;
  margin: 0;
  padding: 0;
}
.causes > li {
  padding: 8px 0;
  border-top: 1px solid var(--line);
}
.causes > li:first-child {
  border-top: 0;
}
.first b,
.first .number {
  font-size: 1.2rem;
}
.number {
  font-weight: 650;
}
.bar {
  height: 8px;
  border-radius: 4px;
  background: var(--sheet-2);
  margin: 4px 0;
  overflow: hidden;
}
.bar span {
  display: block;
  height: 100%;
  background: var(--accent);
}
.reasons {
  list-style: none;
  margin: 4px 0 0;
  padding: 0;
}
.reasons li {
  display: flex;
}
.sign {
  flex: none;
  width: 1.1em;
  font-weight: 700;
}
.for {
  color: var(--good);
}
.against {
  color: var(--bad);
}
</style>
