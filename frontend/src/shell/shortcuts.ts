// Single-key shortcuts; they can be turned off, and never act while one types.
import { useEventListener, useStorage } from '@vueuse/core'
import { ref } from 'vue'

export const shortcutsOn = useStorage('finchwort-shortcuts', true)
export const helpOpen = ref(false)
/** The list of all pages, and the field that finds things, are open. */
export const menuOpen = ref(false)
export const finding = ref(false)

export interface Shortcut {
  key: string
  does: string
}

export const SHORTCUTS: Shortcut[] = [
  { key: '?', does: 'Show this list' },
  { key: 'Ctrl K or g', does: 'Find a printer, a step, a case, a page' },
  { key: 'w', does: 'Go to the workshop' },
  { key: 'l', does: 'Go to the logbook' },
  { key: 'c', does: 'Go to the cases' },
  { key: '/', does: 'Search the logbook' },
  { key: '1 … 9, 0', does: 'In a visit: its steps, in their order' },
  { key: 'h', does: 'In a visit: something happened at the machine' },
  { key: 's', does: 'While a printer works: ask to stop it' },
  { key: 'o', does: 'In a visit: the Z offset' },
  { key: 'f', does: 'In a visit: see the first layer before you print' },
  { key: 'k', does: 'In a visit: type readings on the large keypad' },
  { key: 'p', does: 'In a visit: the plan as a card at the printer' },
  { key: 'y or n', does: 'At a print: it looks good, or you are not sure' },
  { key: '← →', does: 'On that card: back and next' },
]

export function onKey(handlers: Record<string, () => void>): void {
  useEventListener(document, 'keydown', (event: KeyboardEvent) => {
    if (!shortcutsOn.value || event.ctrlKey || event.altKey || event.metaKey || event.defaultPrevented) return
    const target = event.target as HTMLElement | null
    if (target?.closest('input, textarea, select, [contenteditable], [role=dialog], [data-own-keys]')) return
    const handler = handlers[event.key]
    if (handler) {
      event.preventDefault()
      handler()
    }
  })
}

/** Ctrl K finds, also while one types; on some keyboards the key is called ⌘. */
export function onFind(): void {
  useEventListener(document, 'keydown', (event: KeyboardEvent) => {
    if (event.key.toLowerCase() !== 'k' || !(event.ctrlKey || event.metaKey)) return
    event.preventDefault()
    finding.value = !finding.value
  })
}
