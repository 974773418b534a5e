// When one asks faster than is answered: an old answer never comes after a newer one.
import { reactive } from 'vue'
import { sentence } from './errors'

/** Questions asked at will: only the newest one's answer counts. */
export function useLatest() {
  let newest = 0
  const state = reactive({ busy: false, trouble: '', run, drop })
  /** Whatever is under way counts no more. */
  function drop(): void {
    newest++
    state.busy = false
    state.trouble = ''
  }
  /** The answer; nothing where another question came meanwhile, or it went wrong: then `trouble` says why. */
  async function run<T>(ask: () => Promise<T>): Promise<T | undefined> {
    drop()
    const mine = newest
    state.busy = true
    try {
      const answer = await ask()
      return mine === newest ? answer : undefined
    } catch (error) {
      if (mine === newest) state.trouble = sentence(error)
      return undefined
    } finally {
      if (mine === newest) state.busy = false
    }
  }
  return state
}

/** One question at a time, as a hand drags: while it is under way the newest wish waits, and those between are left. */
export function useFollowing<T>(ask: () => Promise<T>, take: (answer: T) => void) {
  let again = false
  const state = reactive({ busy: false, trouble: '', follow })
  async function follow(): Promise<void> {
    if (state.busy) return void (again = true)
    state.busy = true
    do {
      again = false
      try {
        take(await ask())
        state.trouble = ''
      } catch (error) {
        state.trouble = sentence(error)
      }
    } while (again)
    state.busy = false
  }
  return state
}
