// Tests before measuring: half-typed ones live in the browser until they are stored; the server says what they mean.
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { refDebounced, type RemovableRef } from '@vueuse/core'
import { computed, type ComputedRef } from 'vue'
import { sendKeyed, type Schemas } from '@/api/client'
import { api, previewTest, useChange } from '@/api/queries'
import { useDraft } from '@/shell/draft'
import { newKey } from '@/shell/format'
import { tell } from '@/shell/undo'

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
  return useQuery({
    queryKey: ['test-preview', computed(printer), settled],
    queryFn: () => previewTest(printer(), settled.value!),
    enabled: computed(() => settled.value !== null),
    placeholderData: keepPreviousData,
    retry: false,
    staleTime: Infinity,
    gcTime: 60_000,
  })
}

/** Store a test, with an undo. */
export function useStoreTest(visit: () => number) {
  const add = useChange((body: Schemas['TestIn']) => api.addTest(visit(), body))
  const remove = useChange(api.deleteTest)
  const bringBack = useChange(api.restoreTest)
  const drop = async (id: number): Promise<void> => {
    await remove.mutateAsync(id)
    tell('The test was deleted.', () => bringBack.mutateAsync(id))
  }
  const store = async (key: { value: string }, test: TestData): Promise<Schemas['TestOut']> => {
    const made = await sendKeyed(key, (client_key) => add.mutateAsync({ test, client_key }))
    tell('Stored in this visit.', () => drop(made.id))
    return made
  }
  return { store, drop, busy: add.isPending }
}

export const newest = (visit: Schemas['VisitOut'], kind: Kind): Schemas['TestOut'] | null =>
  visit.tests.filter((t) => t.kind === kind).at(-1) ?? null
