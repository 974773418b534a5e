// What the printers are doing, watched by asking again while something runs.
import { type QueryClient, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, toValue, watch, type MaybeRefOrGetter } from 'vue'
import { give, http, type Schemas } from '@/api/client'

/** What can be asked of a machine: each kind of job with what belongs to it. */
export type JobWish = Schemas['JobWanted']['job']

export const OVER = ['done', 'failed', 'stopped', 'interrupted', 'not_begun']
/** What may stand on a job that ended, by the first part of its key. */
const STANDS_ON_JOBS = [
  'visit',
  'workshop',
  'printer',
  'jobs',
  'advice',
  'offset',
  'known-offset',
  'ladder',
  'judged-bed',
  'test-print',
  'told',
  'standing',
  'changes',
]
const SOON = 700
const LATER = 5_000

/** All jobs that wait or run, heaters that are on, and machines of which nobody knows what they do. */
export const useWorking = () =>
  useQuery({
    queryKey: ['jobs', 'working'],
    queryFn: () => give(http.GET('/api/jobs')),
    refetchInterval: (query) => (query.state.data?.jobs.length ? SOON : LATER),
    staleTime: 0,
  })

/** The newest jobs of a printer; when one of them ends, everything that may stand on it is asked for again. */
export function usePrinterJobs(printer: MaybeRefOrGetter<number>) {
  const client = useQueryClient()
  const query = useQuery({
    queryKey: ['jobs', 'printer', computed(() => toValue(printer))],
    queryFn: () =>
      give(
        http.GET('/api/printers/{printer_id}/jobs', { params: { path: { printer_id: toValue(printer) } } }),
      ),
    refetchInterval: (query) =>
      query.state.data?.jobs.some((job) => !OVER.includes(job.state)) ? SOON : LATER,
    staleTime: 0,
  })
  // 0 before any was over
  const over = computed(
    () => query.data.value && (query.data.value.jobs.find((job) => OVER.includes(job.state))?.id ?? 0),
  )
  watch(over, (now, before) => now !== before && before !== undefined && refreshAfterJob(client))
  return query
}
function refreshAfterJob(client: QueryClient): void {
  void client.invalidateQueries({ predicate: (one) => STANDS_ON_JOBS.includes(String(one.queryKey[0])) })
}

/** One job with its touches; when it ends, everything that may stand on it is asked for again. */
export function useJob(id: MaybeRefOrGetter<number | null>) {
  const client = useQueryClient()
  const query = useQuery({
    queryKey: ['job', computed(() => toValue(id))],
    queryFn: () => give(http.GET('/api/jobs/{job_id}', { params: { path: { job_id: toValue(id)! } } })),
    enabled: computed(() => toValue(id) !== null),
    refetchInterval: (one) => (one.state.data && OVER.includes(one.state.data.state) ? false : SOON),
    staleTime: 0,
  })
  watch(
    () => query.data.value,
    (now, before) => {
      // a quick job may be over when it is first seen: that is news as well
      if (now && OVER.includes(now.state) && (now.id !== before?.id || now.state !== before.state))
        refreshAfterJob(client)
    },
  )
  return query
}

export const fetchSaid = (job: number, after: number) =>
  give(http.GET('/api/jobs/{job_id}/conversation', { params: { path: { job_id: job }, query: { after } } }))

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
