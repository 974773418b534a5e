// What is written on another device shows here within a second: it is asked often, and the answer is one line.
import { onUnmounted, ref } from 'vue'
import { queryClient } from '@/api/client'
import { askForCode } from '@/api/entry'
import { newsIn } from './written'

const EVERY = 600
/** So many questions in a row without an answer, and the server is away. */
const ENOUGH = 3
/** The server does not answer: what is shown may be old. */
export const away = ref(false)

/** Follow what others write, while the page can be seen. */
export function useFollow(): void {
  let timer: number | undefined
  let gone = false
  let asked: string | null = null
  let missed = 0
  const look = async (): Promise<void> => {
    window.clearTimeout(timer)
    try {
      if (document.visibilityState === 'visible') {
        const answer = await fetch('/api/written', {
          cache: 'no-store',
          headers: asked ? { 'If-None-Match': asked } : {},
        })
        const tag = answer.headers.get('ETag')
        missed = 0
        if (away.value) {
          away.value = false
          await queryClient.invalidateQueries()
        }
        if (answer.status === 401) return askForCode()
        if (answer.status === 204 && tag && tag !== asked) {
          asked = tag
          if (newsIn(tag)) await queryClient.invalidateQueries()
        }
      }
    } catch {
      // said quietly; whatever is sent now waits by itself
      if (++missed >= ENOUGH) away.value = true
    }
    if (!gone) timer = window.setTimeout(() => void look(), EVERY)
  }
  const wake = (): void => void (document.visibilityState === 'visible' && look())
  document.addEventListener('visibilitychange', wake)
  // before anything that is shown is asked for, so that nothing is missed between
  void look()
  onUnmounted(() => {
    gone = true
    window.clearTimeout(timer)
    document.removeEventListener('visibilitychange', wake)
  })
}
