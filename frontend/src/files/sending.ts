// A file on its way to where Finchwort runs: how far it is, how long it takes, and how it is stopped.
import { useIntervalFn, useLocalStorage } from '@vueuse/core'
import { computed, onUnmounted, reactive, ref } from 'vue'
import { Stopped, type Sending } from '@/api/bytes'
import { sentence } from '@/api/client'

/** MB: on this computer, and over the network, where a file is held in memory. */
const [MOST, MOST_FAR] = [300, 24]
const near = ['127.0.0.1', 'localhost'].includes(window.location.hostname)

function tooLarge(file: File): string {
  if (file.size <= (near ? MOST : MOST_FAR) * 1_000_000) return ''
  return near
    ? `${file.name} is larger than ${MOST} MB, which is more than is read.`
    : `${file.name} is larger than ${MOST_FAR} MB. Pack it (zip), or drop it on the computer that Finchwort runs on.`
}

/** Send files, one at a time; `key` names what is done with them, because that takes its own time. */
export function useFileSending(key: string) {
  // how long it took the last time on this device, ms for each MB
  const pace = useLocalStorage(`finchwort-file-${key}`, 90)
  const under = ref<{ name: string; size: number; sent: number; since: number; now: number } | null>(null)
  const clock = useIntervalFn(() => under.value && (under.value.now = Date.now()), 250, { immediate: false })
  const trouble = ref('')
  let sending: Sending<unknown> | null = null

  /** Give what comes back; nothing when it was stopped or refused, which `trouble` says then. */
  async function send<T>(
    file: File,
    begin: (file: File, progress: (share: number) => void) => Sending<T>,
  ): Promise<T | null> {
    trouble.value = tooLarge(file)
    if (trouble.value) return null
    const size = file.size / 1_000_000
    under.value = { name: file.name, size, sent: 0, since: 0, now: Date.now() }
    clock.resume()
    const begun = begin(file, (share) => {
      if (under.value) Object.assign(under.value, { sent: share, since: share < 1 ? 0 : Date.now() })
    })
    sending = begun
    try {
      const made = await begun.done
      if (size > 1 && under.value?.since) pace.value = Math.max(10, (Date.now() - under.value.since) / size)
      return made
    } catch (problem) {
      if (!(problem instanceof Stopped)) trouble.value = sentence(problem)
      return null
    } finally {
      clock.pause()
      under.value = null
      sending = null
    }
  }
  onUnmounted(() => sending?.stop())

  /** Of the way from here to what comes back: sending is a tenth, reading the rest. */
  const done = computed(() => {
    if (!under.value) return 0
    const { sent, since, now, size } = under.value
    return since ? Math.min(0.99, 0.1 + (0.9 * (now - since)) / Math.max(pace.value * size, 300)) : 0.1 * sent
  })
  const left = computed(() => {
    if (!under.value) return ''
    const { since, now, size } = under.value
    const seconds = (pace.value * size - (since ? now - since : 0)) / 1000
    return seconds > 1 ? `about ${Math.ceil(seconds)} s left` : 'almost there'
  })
  return reactive({ under, trouble, done, left, send, stop: () => sending?.stop() })
}
