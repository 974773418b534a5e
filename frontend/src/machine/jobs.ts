// What the printers are doing, watched by asking again while something runs.
import { computed, toValue, watch, type MaybeRefOrGetter } from 'vue'
import { useApiQuery } from '@/api/ask'
import { queryClient, type Schemas } from '@/api/client'

/** What can be asked of a machine: each kind of job with what belongs to it. */
export type JobWish = Schemas['JobWanted']['job']

export const OVER = ['done', 'failed', 'stopped', 'interrupted', 'not_begun']
/** What may stand on a job that ended, by the beginning of its route. */
const STANDS_ON_JOBS = ['/api/visits/', '/api/printers/', '/api/workshop', '/api/jobs']
const SOON = 700
const LATER = 5_000

/** All jobs that wait or run, heaters that are on, and machines of which nobody knows what they do. */
export const useWorking = () =>
  useApiQuery('/api/jobs', {}, { fresh: 0, again: (now) => (now?.jobs.length ? SOON : LATER) })

/** The newest jobs of a printer; when one of them ends, everything that may stand on it is asked for again. */
export function usePrinterJobs(printer: MaybeRefOrGetter<number>) {
  const query = useApiQuery('/api/printers/{printer_id}/jobs', () => ({ printer_id: toValue(printer) }), {
    fresh: 0,
    again: (now) => (now?.jobs.some((job) => !OVER.includes(job.state)) ? SOON : LATER),
  })
  // 0 before any was over
  const over = computed(
    () => query.data.value && (query.data.value.jobs.find((job) => OVER.includes(job.state))?.id ?? 0),
  )
  watch(over, (now, before) => now !== before && before !== undefined && refreshAfterJob())
  return query
}
function refreshAfterJob(): void {
  void queryClient.invalidateQueries({
    predicate: ({ queryKey: [route] }) => STANDS_ON_JOBS.some((one) => String(route).startsWith(one)),
  })
}

/** One job with its touches; when it ends, everything that may stand on it is asked for again. */
export function useJob(id: MaybeRefOrGetter<number | null>) {
  const query = useApiQuery(
    '/api/jobs/{job_id}',
    () => (toValue(id) === null ? null : { job_id: toValue(id)! }),
    { fresh: 0, again: (now) => (now && OVER.includes(now.state) ? false : SOON) },
  )
  watch(
    () => query.data.value,
    (now, before) => {
      // a quick job may be over when it is first seen: that is news as well
      if (now && OVER.includes(now.state) && (now.id !== before?.id || now.state !== before.state))
        refreshAfterJob()
    },
  )
  return query
}

export const STATE_WORDS: Record<Schemas['JobLineOut']['state'], string> = {
  waiting: 'waiting for the link',
  running: 'at work',
  done: 'done',
  failed: 'failed',
  stopped: 'stopped',
  interrupted: 'interrupted',
  not_begun: 'not begun',
}

export function timeLeft(seconds: number | null): string {
  if (seconds === null) return ''
  return seconds < 60
    ? `about ${Math.max(5, Math.ceil(seconds / 5) * 5)} s left`
    : `about ${Math.round(seconds / 60)} min left`
}
