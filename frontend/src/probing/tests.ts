// Tests before measuring: half-typed ones live in the browser until they are stored; the server says what they mean.
import { refDebounced, type RemovableRef } from '@vueuse/core'
import type { ComputedRef, Ref } from 'vue'
import { useApiAnswer } from '@/api/ask'
import { takeAway, useSubmit } from '@/api/change'
import type { Schemas } from '@/api/client'
import { useDraft } from '@/shell/draft'
import { newKey } from '@/shell/format'

/** What was read, of one kind of test. */
export type TestData = Schemas['TestPreviewIn']['test']
export type Kind = TestData['kind']

export interface Series {
  key: string
  texts: string[]
  times: number[]
  began: number | null
}

export const emptySeries = (): Series => ({ key: newKey(), texts: [], times: [], began: null })

export const useSeries = (visit: number, kind: Kind): RemovableRef<Series> =>
  useDraft<Series>(`${kind}-${visit}`, emptySeries(), `finchwort-${kind}-${visit}`).kept

/** What a test would say, asked a moment after the last change. */
export function useTestPreview(printer: () => number, body: ComputedRef<TestData | null>) {
  const settled = refDebounced(body, 150)
  return useApiAnswer(
    '/api/printers/{printer_id}/tests/preview',
    () => (settled.value === null ? null : [{ printer_id: printer() }, { test: settled.value }]),
    { keep: true, fixed: true, once: true },
  )
}

/** Delete a test, with an undo. */
export const dropTest = (id: number): Promise<void> =>
  takeAway('/api/tests/{test_id}', { test_id: id }, 'The test was deleted.')

/** Store a test, with an undo; its key lies with its draft. */
export function useStoreTest(visit: () => number, key: Ref<string>) {
  const sending = useSubmit('post', '/api/visits/{visit_id}/tests', () => ({ visit_id: visit() }), {
    key,
    said: 'Stored in this visit.',
    undo: (made) => dropTest(made.id),
  })
  return { sending }
}

export const newest = (visit: Schemas['VisitOut'], kind: Kind): Schemas['TestOut'] | null =>
  visit.tests.filter((t) => t.kind === kind).at(-1) ?? null
