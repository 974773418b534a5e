import { useStorage } from '@vueuse/core'
import { computed, watchEffect } from 'vue'

const chosen = useStorage<'auto' | 'light' | 'dark'>('finchwort-theme', 'auto')
const system = window.matchMedia('(prefers-color-scheme: dark)')
const systemDark = useSystem()

export const isDark = computed(() => (chosen.value === 'auto' ? systemDark.value : chosen.value === 'dark'))

export function toggleTheme(): void {
  chosen.value = isDark.value ? 'light' : 'dark'
}

export function applyTheme(): void {
  watchEffect(() => document.documentElement.classList.toggle('dark', isDark.value))
}

function useSystem() {
  const dark = useStorage('finchwort-system-dark', system.matches, sessionStorage)
  dark.value = system.matches
  system.addEventListener('change', () => (dark.value = system.matches))
  return dark
}
