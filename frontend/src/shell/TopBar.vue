<script setup lang="ts">
// The head of every page: where one can go, and where one is.
import { computed } from 'vue'
import { useMe } from '@/api/shown'
import LookChip from '@/prints/LookChip.vue'
import FrameIcon from './FrameIcon.vue'
import { finding, helpOpen, menuOpen } from './shortcuts'
import { isDark, toggleTheme } from './theme'
import { trail } from './trail'

const { data: me } = useMe()
const owner = computed(() => me.value?.may.includes('own') ?? false)
const ground = computed(() => (isDark.value ? 'Light ground' : 'Dark ground'))
const before = computed(() => trail.value.filter((one) => one.to))
</script>

<template>
  <!-- eslint-disable vue/no-restricted-html-elements --
  one of six alike at the foot, and the others are links -->
  <header class="top no-print">
    <RouterLink to="/" class="brand" aria-label="Finchwort, to the workshop">
      <svg viewBox="0 0 32 24" width="34" height="26" aria-hidden="true">
        <path d="M1 14c5-3 9-9 14-9s9 5 16 2" fill="none" stroke="#b4562b" stroke-width="2.2" />
        <path d="M1 19c6-2 9-8 14-8s9 5 16 3" fill="none" stroke="currentColor" stroke-width="2.2" />
        <path d="M1 23c7-1 9-6 14-6s9 4 16 3" fill="none" stroke="#4a7a91" stroke-width="2.2" />
      </svg>
      <span>Finchwort</span>
    </RouterLink>
    <nav aria-label="Main" class="wide-only">
      <RouterLink to="/">Workshop</RouterLink>
      <RouterLink to="/prints">Prints</RouterLink>
      <RouterLink to="/cases">Cases</RouterLink>
      <RouterLink to="/logbook">Logbook</RouterLink>
      <RouterLink v-if="owner" to="/devices">Devices</RouterLink>
      <RouterLink v-if="owner" to="/backups">Backups</RouterLink>
    </nav>
    <nav aria-label="Where you are" class="narrow-only trail">
      <RouterLink to="/">Workshop</RouterLink>
      <span v-for="one in before" :key="one.to" class="crumb"
        ><span aria-hidden="true">›</span> <RouterLink :to="one.to!">{{ one.name }}</RouterLink></span
      >
    </nav>
    <LookChip class="due" />
    <div class="tools wide-only">
      <el-button class="find" aria-label="Find" @click="finding = true"
        ><FrameIcon name="find" /><span>Find</span><kbd>Ctrl K</kbd></el-button
      >
      <el-button :aria-label="ground" :title="ground" @click="toggleTheme"
        ><FrameIcon name="ground"
      /></el-button>
      <el-button aria-label="Keys" title="Keys (?)" @click="helpOpen = true">?</el-button>
      <el-button aria-label="All pages" title="All pages" @click="menuOpen = true"
        ><FrameIcon name="menu"
      /></el-button>
    </div>
  </header>
  <nav v-if="trail.length" aria-label="Where you are" class="way wide-only no-print">
    <RouterLink to="/">Workshop</RouterLink>
    <span v-for="one in trail" :key="one.name" class="crumb"
      ><span aria-hidden="true">›</span>
      <RouterLink v-if="one.to" :to="one.to">{{ one.name }}</RouterLink><span v-else aria-current="page">{{
        one.name
      }}</span></span
    >
  </nav>
  <nav aria-label="Main" class="foot narrow-only no-print">
    <RouterLink to="/"><FrameIcon name="workshop" />Workshop</RouterLink>
    <RouterLink to="/prints"><FrameIcon name="prints" />Prints</RouterLink>
    <RouterLink to="/cases"><FrameIcon name="cases" />Cases</RouterLink>
    <RouterLink to="/logbook"><FrameIcon name="logbook" />Logbook</RouterLink>
    <button type="button" @click="finding = true"><FrameIcon name="find" />Find</button>
    <button type="button" @click="menuOpen = true"><FrameIcon name="menu" />More</button>
  </nav>
</template>

<style scoped>
.top {
  display: flex;
  align-items: center;
  gap: 8px 24px;
  padding: 8px 24px;
  border-bottom: 1px solid var(--line);
  background: var(--sheet);
}
.brand {
  display: flex;
  gap: 8px;
  align-items: center;
  font-family: var(--head);
  font-weight: 700;
  font-size: 1.25rem;
  color: var(--ink);
  text-decoration: none;
}
.top > nav {
  display: flex;
  gap: 4px;
}
.top > .wide-only a {
  color: var(--ink);
  text-decoration: none;
  padding: 8px 10px;
  border-bottom: 3px solid transparent;
}
.top > .wide-only a.router-link-exact-active {
  border-color: var(--accent);
  font-weight: 650;
}
.due {
  margin-left: auto;
}
.tools {
  display: flex;
  gap: 4px;
}
.tools .el-button {
  margin: 0;
  min-width: 40px;
  padding: 0 9px;
  background: transparent;
}
.find span {
  margin: 0 6px;
}
kbd {
  font: inherit;
  font-size: 0.8rem;
  font-weight: 400;
  color: var(--ink-2);
}
.way {
  max-width: 1240px;
  margin: 0 auto;
  padding: 10px 24px 0;
  display: flex;
  gap: 6px;
  font-size: 0.9rem;
  color: var(--ink-2);
}
.way a,
.trail a {
  color: var(--ink-2);
}
.crumb {
  display: flex;
  align-items: center;
  gap: 6px;
  white-space: nowrap;
}
@media (min-width: 641px) {
  .narrow-only {
    display: none !important;
  }
}
@media (max-width: 640px) {
  .wide-only,
  .brand span {
    display: none !important;
  }
  .top {
    padding: 4px 12px;
    gap: 10px;
    min-height: 44px;
  }
  .trail {
    gap: 6px;
    overflow: hidden;
    align-items: center;
  }
  .trail a {
    display: inline-block;
    padding: 9px 2px;
  }
  .crumb:last-child {
    overflow: hidden;
    text-overflow: ellipsis;
  }
  /* the thumb's own row */
  .foot {
    position: fixed;
    inset: auto 0 0;
    z-index: 1400;
    display: grid;
    grid-template-columns: repeat(6, 1fr);
    background: var(--sheet);
    border-top: 1px solid var(--line);
    padding-bottom: env(safe-area-inset-bottom);
  }
  .foot a,
  .foot button {
    display: flex;
    flex-direction: column;
    align-items: center;
    justify-content: center;
    gap: 2px;
    min-height: 54px;
    font: inherit;
    font-size: 0.78rem;
    color: var(--ink);
    text-decoration: none;
    background: transparent;
    border: 0;
    border-top: 3px solid transparent;
    cursor: pointer;
  }
  .foot a.router-link-exact-active {
    border-color: var(--accent);
    font-weight: 650;
  }
}
</style>
