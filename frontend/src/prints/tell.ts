// Telling somebody who looks elsewhere that a look is due: a sound, and a notification of the browser.
import { useStorage } from '@vueuse/core'
import { ref } from 'vue'

export const soundOn = useStorage('finchwort-look-sound', true)
const WORKER = '/watch-worker.js'

/** What this browser allows: nothing was asked for yet, granted, refused, or it cannot show any here. */
export type Allowed = 'ask' | 'granted' | 'denied' | 'cannot'
const can = (): boolean => 'Notification' in window && 'serviceWorker' in navigator && window.isSecureContext
const read = (): Allowed =>
  !can() ? 'cannot' : Notification.permission === 'default' ? 'ask' : Notification.permission
export const allowed = ref<Allowed>(read())

/** Ask for notifications, once, and only when somebody tapped for it. */
export async function askForNotifications(): Promise<void> {
  if (!can()) return
  await Notification.requestPermission()
  allowed.value = read()
  if (allowed.value === 'granted') await navigator.serviceWorker.register(WORKER)
}

/** Show a notification that leads to a page when it is tapped. */
export async function notify(title: string, body: string, to: string): Promise<void> {
  if (read() !== 'granted') return
  const worker = await navigator.serviceWorker.register(WORKER)
  await navigator.serviceWorker.ready
  await worker.showNotification(title, { body, tag: to, data: { to } })
}

/** Two short tones, the second higher; silent until somebody touched the page once, as browsers want it. */
export function chime(): void {
  if (!soundOn.value) return
  try {
    const sound = new AudioContext()
    for (const [from, pitch] of [
      [0, 523],
      [0.22, 784],
    ] as const) {
      const [tone, loud] = [sound.createOscillator(), sound.createGain()]
      tone.frequency.value = pitch
      loud.gain.setValueAtTime(0.0001, sound.currentTime + from)
      loud.gain.exponentialRampToValueAtTime(0.25, sound.currentTime + from + 0.02)
      loud.gain.exponentialRampToValueAtTime(0.0001, sound.currentTime + from + 0.2)
      tone.connect(loud).connect(sound.destination)
      tone.start(sound.currentTime + from)
      tone.stop(sound.currentTime + from + 0.21)
    }
    window.setTimeout(() => void sound.close(), 1_000)
  } catch {
    // a browser without sound
  }
}
