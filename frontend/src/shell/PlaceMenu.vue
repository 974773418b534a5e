<script setup lang="ts">
// All pages in one list, from the side; a tap on one goes there.
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { useMe } from '@/api/shown'
import { placesFor } from './places'
import { helpOpen, menuOpen } from './shortcuts'
import { isDark, toggleTheme } from './theme'
import { showRound } from './tour'

const { data: me } = useMe()
const groups = computed(() => placesFor(me.value?.may.includes('own') ?? false))
const route = useRoute()
const inVisit = computed(() => route.path.startsWith('/visits/') && 'step' in route.params)
function round(): void {
  menuOpen.value = false
  showRound()
}
function keys(): void {
  menuOpen.value = false
  helpOpen.value = true
}
</script>

<template>
  <el-drawer v-model="menuOpen" title="All pages" size="min(86vw, 360px)" append-to-body>
    <nav aria-label="All pages">
      <section v-for="group in groups" :key="group.name">
        <h3>{{ group.name }}</h3>
        <RouterLink
          v-for="one in group.places"
          :key="one.to"
          :to="one.to"
          class="one"
          @click="menuOpen = false"
          ><b>{{ one.name }}</b
          ><span class="quiet small">{{ one.says }}</span></RouterLink
        >
      </section>
    </nav>
    <section class="row tools">
      <el-switch
        :model-value="isDark"
        active-text="Dark ground"
        aria-label="Dark ground"
        @update:model-value="toggleTheme"
      />
      <el-button v-if="inVisit" @click="round">Show me round</el-button>
      <el-button @click="keys">Keys</el-button>
    </section>
  </el-drawer>
</template>

<style scoped>
section + section {
  margin-top: 14px;
}
.one {
  display: flex;
  flex-direction: column;
  padding: 9px 8px;
  border-top: 1px solid var(--line);
  color: var(--ink);
  text-decoration: none;
}
.one:hover,
.one.router-link-exact-active {
  background: var(--sheet-2);
}
.tools {
  margin-top: 18px;
  justify-content: space-between;
}
</style>
