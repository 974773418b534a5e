// What is written on another device shows here within a second: it is asked often, and the answer is one line.
import { onUnmounted } from 'vue'
import { queryClient } from '@/api/client'
import { newsIn } from './written'

const EVERY = 600

/** Follow what others write, while the page can be seen. */
export function useFollow(): void {
  let timer: number | undefined
  let gone = false
  let asked: string | null = null
  const look = async (): Promise<void> => {
    window.clearTimeout(timer)
    try {
      if (document.visibilityState === 'visible') {
        const answer = await fetch('/api/written', {
          cache: 'no-store',
          headers: asked ? { 'If-None-Match': asked } : {},
        })
        const tag = answer.headers.get('ETag')
        if (answer.status === 401) return void window.location.assign('/pair')
        if (answer.status === 204 && tag && tag !== asked) {
          asked = tag
          if (newsIn(tag)) await queryClient.invalidateQueries()
        }
      }
    } catch {
      // the server is away: whatever is sent next says so
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
