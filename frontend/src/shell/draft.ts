// What was typed and is not stored yet: kept in the browser over a reload, another page and a server that was away.
import { useLocalStorage, type RemovableRef } from '@vueuse/core'

export interface Draft<T> {
  kept: RemovableRef<T>
  /** It is stored now, or not wanted any more. */
  clear: () => void
  /** It is stored now, and goes on being shown. */
  forget: () => void
}

/** A draft by its name, which says of what it is: `note-logbook`, `set-up-new`. */
export function useDraft<T>(name: string, fresh: T): Draft<T> {
  const empty = JSON.stringify(fresh)
  const kept = useLocalStorage<T>(`finchwort-draft-${name}`, fresh, { writeDefaults: false })
  return {
    kept,
    clear: () => (kept.value = JSON.parse(empty) as T),
    forget: () => localStorage.removeItem(`finchwort-draft-${name}`),
  }
}
