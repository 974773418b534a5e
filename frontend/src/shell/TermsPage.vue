<script setup lang="ts">
// All words of the trade that the pages use, each in one sentence with a picture.
import { computed, nextTick, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { sentence } from '@/api/client'
import { useTerms } from '@/api/shown'
import { fitting } from './find'
import { useTrail } from './trail'
import TermDrawing from '@/components/TermDrawing.vue'

const route = useRoute()
const { data, error } = useTerms()
const search = ref('')
const shown = computed(() =>
  fitting(
    (data.value?.terms ?? []).map((one) => ({
      ...one,
      says: `${one.says} ${one.also.join(' ')}`,
      sentence: one.says,
      kind: 'term',
    })),
    search.value,
    1000,
  ),
)
const named = computed(() => decodeURIComponent(route.hash.slice(1)))
watch(
  [named, data],
  () =>
    named.value &&
    nextTick(() => document.getElementById(`term-${named.value}`)?.scrollIntoView({ block: 'center' })),
  { immediate: true },
)
useTrail(() => [{ name: 'Terms' }])
</script>

<template>
  <TroubleNote v-if="error">{{ sentence(error) }}</TroubleNote>
  <div v-else-if="data" class="stack">
    <div class="row spread">
      <h1>Terms</h1>
      <el-input
        v-model="search"
        class="find"
        type="search"
        placeholder="Find a term"
        aria-label="Find a term"
        clearable
      />
    </div>
    <p class="quiet">
      What the pages mean by a word. A word with dots under it says the same when you tap it.
    </p>
    <el-empty v-if="!shown.length" description="No term here is called that." :image-size="60" />
    <dl v-else>
      <div
        v-for="one in shown"
        :id="`term-${one.key}`"
        :key="one.key"
        class="sheet"
        :class="{ named: one.key === named }"
      >
        <dt>{{ one.name }}</dt>
        <dd>
          {{ one.sentence
          }}<span v-if="one.also.length" class="small quiet also"
            >Also looked for as {{ one.also.join(', ') }}.</span
          >
          <TermDrawing v-if="one.draw" :of="one.draw" />
        </dd>
      </div>
    </dl>
  </div>
  <WaitBox v-else says="Opening the terms …" kind="page" />
</template>

<style scoped>
.find {
  width: 220px;
}
dl {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(100%, 340px), 1fr));
  gap: 12px;
  margin: 0;
}
dt {
  font-family: var(--head);
  font-weight: 600;
  margin-bottom: 4px;
}
dd {
  margin: 0;
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.also {
  display: block;
}
.named {
  border-color: var(--accent);
  box-shadow: 0 0 0 2px var(--accent);
}
</style>
