// Ask the server what readings mean, a moment after the last key.
import { refDebounced } from '@vueuse/core'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, toRaw, type ComputedRef } from 'vue'
import type { Schemas } from '@/api/client'
import { previewReadings } from '@/api/queries'

export function usePreview(printer: number, visit: number, body: ComputedRef<Schemas['PreviewIn'] | null>) {
  const settled = refDebounced(body, 180)
  const query = useQuery({
    queryKey: ['preview', printer, settled],
    queryFn: () => previewReadings(printer, { ...settled.value!, visit }),
    enabled: computed(() => settled.value !== null),
    placeholderData: keepPreviousData,
    retry: false,
    staleTime: Infinity,
    gcTime: 60_000,
  })
  // what is shown may still be the answer to what was asked before
  const behind = computed(() => toRaw(settled.value) !== toRaw(body.value) || query.isFetching.value)
  return { data: query.data, error: query.error, behind }
}
