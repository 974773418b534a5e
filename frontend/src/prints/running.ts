// Prints that run: asked for while some do, and again at the moment at which the next look is due.
import { useIntervalFn } from '@vueuse/core'
import { ref, type Ref } from 'vue'
import { useApiQuery } from '@/api/ask'
import type { Schemas } from '@/api/client'
import { asTime } from '@/shell/format'

type Brief = Schemas['PrintBrief']
const SOON = 20_000
const SELDOM = 120_000

/** When to ask again, in milliseconds: just after the next look is due, and every now and then for what others did. */
export function askAgain(prints: Brief[], now: number): number {
  const next = prints
    .filter((one) => !one.wanted && !one.over)
    .flatMap((one) => [one.coming?.due, one.ends_at])
    .filter((at) => at != null)
    .map((at) => new Date(at).getTime() - now + 1_000)
    .filter((left) => left > 0)
  return Math.max(1_000, Math.min(prints.length ? SOON : SELDOM, ...next))
}

export const useRunning = () =>
  useApiQuery('/api/prints/running', {}, { again: (told) => askAgain(told?.prints ?? [], Date.now()) })

/** The present, every few seconds. */
export function useClock(every = 5_000): Ref<number> {
  const now = ref(Date.now())
  useIntervalFn(() => (now.value = Date.now()), every)
  return now
}

/** So long, in minutes and from two hours on in hours. */
export function lasting(milliseconds: number): string {
  const minutes = Math.max(0, Math.round(milliseconds / 60_000))
  if (minutes < 120) return `${minutes} min`
  return minutes % 60 ? `${Math.floor(minutes / 60)} h ${minutes % 60} min` : `${minutes / 60} h`
}

export const since = (iso: string, now: number): string => lasting(now - new Date(iso).getTime())
export const until = (iso: string, now: number): string => lasting(new Date(iso).getTime() - now)

/** When a look is due, and how long that is from now. */
export const dueAt = (iso: string, now: number): string =>
  new Date(iso).getTime() > now ? `at ${asTime(iso)}, in ${until(iso, now)}` : `since ${asTime(iso)}`
