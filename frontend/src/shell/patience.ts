// The server was away: what was to be stored waits here and is stored as soon as it answers again.
import { ref, watch } from 'vue'
import { ApiError } from '@/api/errors'
import { notice, tell } from './undo'

const EVERY = 1_500
const BACK = 'Finchwort is back, and what waited is stored.'
/** So many things wait for the server. */
export const waiting = ref(0)
let enough = 0
/** Whoever does not want to wait goes on by hand; what was typed is still there. */
export function doNotWait(): void {
  enough += 1
}
// what was sent must not be changed under way: the page holds still, but for the message and its button
watch(
  waiting,
  (count) => {
    for (const one of document.body.children)
      if (!one.hasAttribute('data-notice')) one.toggleAttribute('inert', count > 0)
  },
  { flush: 'sync' },
)

const away = (error: unknown): boolean =>
  error instanceof ApiError && (error.status === 0 || error.status === 503)

async function answers(): Promise<boolean> {
  try {
    return (await fetch('/api/health', { cache: 'no-store' })).ok
  } catch {
    return false
  }
}

/**
 * Send again when the server is back. Only for what may be sent twice, and never for what moves or heats a machine.
 * Whoever goes back to another page meanwhile, or does not want to wait, is told that it was not stored; a draft keeps
 * what was typed.
 */
export async function patiently<T>(send: () => Promise<T>): Promise<T> {
  try {
    return await send()
  } catch (error) {
    if (!away(error)) throw error
    const page = window.location.pathname
    const asked = enough
    waiting.value += 1
    try {
      for (;;) {
        for (let i = 0; i < 10 && enough === asked; i += 1)
          await new Promise((resolve) => setTimeout(resolve, EVERY / 10))
        if (enough !== asked || window.location.pathname !== page) throw error
        if (!(await answers())) continue
        try {
          const made = await send()
          // beside what the page itself says, and its undo
          setTimeout(() => tell([BACK, notice.current?.text ?? ''].join(' ').trim(), notice.current?.undo), 0)
          return made
        } catch (again) {
          if (!away(again)) throw again
        }
      }
    } finally {
      waiting.value -= 1
    }
  }
}
