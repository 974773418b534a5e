// What was typed and is not stored yet: kept in the browser over a reload, another page and a server that was away.
import { useLocalStorage, type RemovableRef } from '@vueuse/core'

export interface Draft<T> {
  kept: RemovableRef<T>
  /** It is stored now, or not wanted any more. */
  clear: () => void
  /** It is stored now, and goes on being shown. */
  forget: () => void
}

/**
 * A draft by its name, which says of what it is: `note-logbook`, `set-up-new`.
 * `before` is where an older version kept it.
 */
export function useDraft<T>(name: string, fresh: T, before = ''): Draft<T> {
  const old = before && localStorage.getItem(before)
  if (old) {
    if (localStorage.getItem(`finchwort-draft-${name}`) === null)
      localStorage.setItem(`finchwort-draft-${name}`, old)
    localStorage.removeItem(before)
  }
  const empty = JSON.stringify(fresh)
  // what a draft of an older version lacks is filled in
  const whole = typeof fresh === 'object' && !Array.isArray(fresh)
  const kept = useLocalStorage<T>(`finchwort-draft-${name}`, fresh, {
    writeDefaults: false,
    mergeDefaults: whole,
  })
  return {
    kept,
    clear: () => (kept.value = JSON.parse(empty) as T),
    forget: () => localStorage.removeItem(`finchwort-draft-${name}`),
  }
}
