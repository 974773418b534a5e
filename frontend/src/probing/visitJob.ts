// The job of one kind that this visit watches: the one begun here, or the newest there is.
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import { useJob, usePrinterJobs } from '@/machine/jobs'

export function useVisitJob(visit: Schemas['VisitOut'], kind: Schemas['JobLineOut']['kind']) {
  const chosen = ref<number | null>(null)
  const { data: list } = usePrinterJobs(() => visit.printer.id)
  const id = computed(() => {
    const mine = list.value?.jobs.filter((job) => job.kind === kind && job.visit_id === visit.id) ?? []
    return Math.max(chosen.value ?? 0, mine[0]?.id ?? 0) || null
  })
  const { data: job } = useJob(id)
  return { job, list, follow: (begun: number) => (chosen.value = begun) }
}
