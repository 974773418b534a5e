// Ask the server what readings mean, a moment after the last key.
import { refDebounced } from '@vueuse/core'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, type ComputedRef } from 'vue'
import type { Schemas } from '@/api/client'
import { previewReadings } from '@/api/queries'

export function usePreview(printer: number, body: ComputedRef<Schemas['PreviewIn'] | null>) {
  const settled = refDebounced(body, 180)
  return useQuery({
    queryKey: ['preview', printer, settled],
    queryFn: () => previewReadings(printer, settled.value!),
    enabled: computed(() => settled.value !== null),
    placeholderData: keepPreviousData,
    retry: false,
    staleTime: Infinity,
    gcTime: 60_000,
  })
}
