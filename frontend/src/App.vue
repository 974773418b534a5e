<script setup lang="ts">
import { computed, defineAsyncComponent } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useMe } from '@/api/access'
import StopBar from '@/machine/StopBar.vue'
import NoticeBar from '@/shell/NoticeBar.vue'
import { useFollow } from '@/shell/follow'
import { helpOpen, onKey } from '@/shell/shortcuts'
import { isDark, toggleTheme } from '@/shell/theme'

const ShortcutHelp = defineAsyncComponent(() => import('@/shell/ShortcutHelp.vue'))
const route = useRoute()
const router = useRouter()
const bare = computed(() => route.meta.bare === true)
const { data: me } = useMe()
const owner = computed(() => me.value?.may.includes('own') ?? false)
useFollow()
onKey({
  '?': () => (helpOpen.value = true),
  w: () => void router.push('/'),
  l: () => void router.push('/logbook'),
  c: () => void router.push('/cases'),
  '/': () => void router.push({ path: '/logbook', query: { focus: '1' } }),
})
</script>

<template>
  <a class="skip" href="#main">To the content</a>
  <header v-if="!bare" class="top no-print">
    <RouterLink to="/" class="brand" aria-label="Finchwort, to the workshop">
      <svg viewBox="0 0 32 24" width="34" height="26" aria-hidden="true">
        <path d="M1 14c5-3 9-9 14-9s9 5 16 2" fill="none" stroke="#b4562b" stroke-width="2.2" />
        <path d="M1 19c6-2 9-8 14-8s9 5 16 3" fill="none" stroke="currentColor" stroke-width="2.2" />
        <path d="M1 23c7-1 9-6 14-6s9 4 16 3" fill="none" stroke="#4a7a91" stroke-width="2.2" />
      </svg>
      <span>Finchwort</span>
    </RouterLink>
    <nav aria-label="Main">
      <RouterLink to="/">Workshop</RouterLink>
      <RouterLink to="/cases">Cases</RouterLink>
      <RouterLink to="/logbook">Logbook</RouterLink>
      <RouterLink v-if="owner" to="/devices" class="wide-only">Devices</RouterLink>
      <RouterLink v-if="owner" to="/backups" class="wide-only">Backups</RouterLink>
    </nav>
    <div class="tools">
      <button
        type="button"
        :aria-label="isDark ? 'Light ground' : 'Dark ground'"
        :title="isDark ? 'Light ground' : 'Dark ground'"
        @click="toggleTheme"
      >
        <svg viewBox="0 0 24 24" width="20" height="20" aria-hidden="true">
          <circle cx="12" cy="12" r="8" fill="none" stroke="currentColor" stroke-width="2" />
          <path d="M12 4a8 8 0 0 1 0 16z" fill="currentColor" />
        </svg>
      </button>
      <button type="button" aria-label="Keys" title="Keys (?)" @click="helpOpen = true">?</button>
    </div>
  </header>
  <p v-if="me?.role === 'viewer'" class="role no-print" role="status">
    {{ me.name }} may look and stop a machine, and writes nothing down.
  </p>
  <StopBar />
  <main id="main" :class="{ bare }" tabindex="-1">
    <RouterView />
  </main>
  <ShortcutHelp v-if="helpOpen" />
  <NoticeBar :top="bare" />
</template>

<style scoped>
.skip {
  position: absolute;
  left: -9999px;
}
.skip:focus {
  left: 8px;
  top: 8px;
  z-index: 10;
  background: var(--sheet);
  padding: 8px;
}
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
nav {
  display: flex;
  gap: 4px;
}
nav a {
  color: var(--ink);
  text-decoration: none;
  padding: 8px 10px;
  border-bottom: 3px solid transparent;
}
nav a.router-link-exact-active {
  border-color: var(--accent);
  font-weight: 650;
}
.tools {
  margin-left: auto;
  display: flex;
  gap: 4px;
}
.tools button {
  font: inherit;
  font-weight: 700;
  color: var(--ink);
  background: transparent;
  border: 1px solid var(--line);
  border-radius: var(--round);
  width: 40px;
  height: 40px;
  display: grid;
  place-items: center;
  cursor: pointer;
}
.role {
  padding: 6px 24px;
  background: var(--mild-ground);
}
main {
  max-width: 1240px;
  margin: 0 auto;
  padding: 18px 24px 80px;
}
main:focus {
  outline: none;
}
main.bare {
  max-width: none;
  padding: 0;
}
@media (max-width: 640px) {
  .top {
    padding: 6px 12px;
    gap: 4px 8px;
  }
  .brand span,
  .wide-only {
    display: none;
  }
  main {
    padding: 12px 12px 80px;
  }
}
</style>
