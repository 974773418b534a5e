// Where one is: the way from the workshop to the page that is shown.
import { onUnmounted, shallowRef, watchEffect } from 'vue'

export interface Crumb {
  name: string
  /** Nothing for the page itself. */
  to?: string
}

export const trail = shallowRef<Crumb[]>([])

/** Say the way to this page, from below the workshop; the last is the page itself. */
export function useTrail(way: () => Crumb[]): void {
  let mine: Crumb[] = []
  watchEffect(() => (trail.value = mine = way()))
  // the next page may have said its own by now
  onUnmounted(() => trail.value === mine && (trail.value = []))
}
