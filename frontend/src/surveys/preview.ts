// Ask the server what readings mean, a moment after the last key.
import { refDebounced } from '@vueuse/core'
import { computed, toRaw, type ComputedRef } from 'vue'
import { useApiAnswer } from '@/api/ask'
import type { Schemas } from '@/api/client'

export function usePreview(printer: number, visit: number, body: ComputedRef<Schemas['PreviewIn'] | null>) {
  const settled = refDebounced(body, 180)
  const query = useApiAnswer(
    '/api/printers/{printer_id}/preview',
    () => (settled.value === null ? null : [{ printer_id: printer }, { ...settled.value, visit }]),
    { keep: true, fixed: true, once: true },
  )
  // what is shown may still be the answer to what was asked before
  const behind = computed(() => toRaw(settled.value) !== toRaw(body.value) || query.isFetching.value)
  return { data: query.data, error: query.error, behind }
}
