// Being shown round a visit: offered where the first one begins, and again from the list of all pages.
import { useLocalStorage } from '@vueuse/core'
import { ref } from 'vue'

export const touring = ref(false)
/** Whether this device was shown round, or did not want to be. */
export const shownRound = useLocalStorage('finchwort-shown-round', false)

export function showRound(): void {
  shownRound.value = true
  touring.value = true
}
