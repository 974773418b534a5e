<script setup lang="ts">
import { computed, defineAsyncComponent } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useMe } from '@/api/shown'
import StopBar from '@/machine/StopBar.vue'
import { watchPrints } from '@/prints/watching'
import NoticeBar from '@/shell/NoticeBar.vue'
import { useFollow } from '@/shell/follow'
import { finding, helpOpen, menuOpen, onFind, onKey } from '@/shell/shortcuts'
import TopBar from '@/shell/TopBar.vue'

const CommandPalette = defineAsyncComponent(() => import('@/shell/CommandPalette.vue'))
const PlaceMenu = defineAsyncComponent(() => import('@/shell/PlaceMenu.vue'))
const ShortcutHelp = defineAsyncComponent(() => import('@/shell/ShortcutHelp.vue'))
const route = useRoute()
const router = useRouter()
const bare = computed(() => route.meta.bare === true)
const { data: me } = useMe()
useFollow()
watchPrints()
onFind()
onKey({
  g: () => (finding.value = true),
  '?': () => (helpOpen.value = true),
  w: () => void router.push('/'),
  l: () => void router.push('/logbook'),
  c: () => void router.push('/cases'),
  '/': () => void router.push({ path: '/logbook', query: { focus: '1' } }),
})
</script>

<template>
  <a class="skip" href="#main">To the content</a>
  <TopBar v-if="!bare" />
  <p v-if="me?.role === 'viewer'" class="role no-print" role="status">
    {{ me.name }} may look and stop a machine, and writes nothing down.
  </p>
  <StopBar />
  <main id="main" :class="{ bare }" tabindex="-1">
    <RouterView />
  </main>
  <ShortcutHelp v-if="helpOpen" />
  <PlaceMenu v-if="menuOpen" />
  <CommandPalette v-if="finding" />
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
  main {
    padding: 10px 12px 96px;
  }
}
</style>
