<script setup lang="ts">
// All cases, and where to look things up.
import { refDebounced } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { sentence } from '@/api/client'
import { useCases, useWorkshop } from '@/api/shown'
import { asDay } from '@/shell/format'

const router = useRouter()
const search = ref('')
const text = refDebounced(search, 250)
const { data, error, hasNextPage, fetchNextPage, isFetchingNextPage } = useCases(text)
const cases = computed(() => data.value?.pages.flatMap((page) => page.cases) ?? [])
const { data: workshop } = useWorkshop()
</script>

<template>
  <div class="stack">
    <div class="row spread">
      <h1>Why does it not stick?</h1>
      <div class="row">
        <label class="visually-hidden" for="find-case">Find a case</label
        ><el-input id="find-case" v-model="search" type="search" placeholder="Find a case" />
      </div>
    </div>
    <section class="sheet stack" aria-label="Open a case">
      <h2>Open a case</h2>
      <p>
        Say what you see; Finchwort adds what it has measured, names the likely causes, and the check that
        tells most for its minutes.
      </p>
      <div class="row printers">
        <el-button
          v-for="c in workshop?.cards"
          :key="c.printer.id"
          @click="router.push(`/printers/${c.printer.id}/cases/new`)"
          >On {{ c.printer.name }}</el-button
        >
      </div>
      <p v-if="workshop && !workshop.cards.length" class="quiet">
        Set up a printer first. <RouterLink to="/printers/new">Add a printer</RouterLink>
      </p>
    </section>
    <TroubleNote v-if="error">{{ sentence(error) }}</TroubleNote>
    <section v-else-if="data" class="sheet stack" aria-label="Cases">
      <h2>Cases</h2>
      <p v-if="!cases.length" class="quiet">
        {{
          search
            ? 'No case fits.'
            : 'No case yet. When a first layer lets go, open one here: it takes less than a minute.'
        }}
      </p>
      <ul>
        <li v-for="c in cases" :key="c.id">
          <RouterLink :to="`/cases/${c.id}`"
            ><b>{{ c.words || 'A first layer that does not stick' }}</b></RouterLink
          ><span class="quiet small"
            >{{ c.printer }}, {{ asDay(c.opened_at) }} ·
            {{
              c.cause ? `it was: ${c.cause.toLowerCase()}` : `open; likeliest: ${c.likeliest?.toLowerCase()}`
            }}</span
          >
        </li>
      </ul>
      <p v-if="hasNextPage">
        <el-button :loading="isFetchingNextPage" @click="fetchNextPage()">Older cases</el-button>
      </p>
    </section>
    <div v-else class="sheet cases"><WaitBox says="Looking for the cases …" /></div>
    <p class="row">
      <RouterLink to="/table">Surfaces, materials, cleaning</RouterLink
      ><RouterLink to="/files">Before a print: drop its file</RouterLink
      ><RouterLink to="/part">Check a part and its settings</RouterLink
      ><RouterLink to="/extrusion">Extrusion sums</RouterLink
      ><RouterLink to="/beliefs">What Finchwort believes</RouterLink>
    </p>
  </div>
</template>

<style scoped>
.printers {
  min-height: 40px;
}
.cases {
  min-height: 240px;
}
@media (max-width: 640px) {
  .printers {
    min-height: 88px;
    align-content: start;
  }
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: flex;
  flex-direction: column;
  padding: 8px 0;
  border-top: 1px solid var(--line);
}
</style>
