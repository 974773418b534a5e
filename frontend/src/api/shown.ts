// What many pages ask for.
import { keepPreviousData, useInfiniteQuery } from '@tanstack/vue-query'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'
import { ask, useApiQuery } from './ask'
import type { Schemas } from './client'

type Get<T> = MaybeRefOrGetter<T>
type Id = Get<number | null>

export const useMe = () => useApiQuery('/api/me', {}, { fresh: 30_000 })
export const useWorkshop = () => useApiQuery('/api/workshop')
export const useToday = () => useApiQuery('/api/today')
export const useKnowledge = () => useApiQuery('/api/knowledge', {}, { fixed: true })
export const useFeels = () => useApiQuery('/api/feels', {}, { fixed: true })
export const useTerms = (wanted: Get<boolean> = true) =>
  useApiQuery('/api/terms', () => (toValue(wanted) ? {} : null), { fixed: true })

const of = <Name extends string>(name: Name, id: Id): (() => Record<Name, number> | null) => {
  return () => {
    const value = toValue(id)
    return value === null ? null : ({ [name]: value } as Record<Name, number>)
  }
}
export const usePrinter = (id: Id) => useApiQuery('/api/printers/{printer_id}', of('printer_id', id))
export const useStanding = (id: Id) =>
  useApiQuery('/api/printers/{printer_id}/standing', of('printer_id', id))
export const useVisit = (id: Id) => useApiQuery('/api/visits/{visit_id}', of('visit_id', id))
export const useMap = (id: Id) => useApiQuery('/api/surveys/{survey_id}/map', of('survey_id', id))

/** How a plan is wanted: what stays, which plane counts as the tilt, and through which readings. */
export type Wish = Pick<Schemas['TurningIn'], 'hold' | 'reference' | 'points'>
export const USUAL: Wish = { hold: 'centre', reference: 'least_squares' }
export const usePlan = (id: Id, wish: Get<Wish>, wanted: Get<boolean> = true) =>
  useApiQuery(
    '/api/surveys/{survey_id}/plan',
    () => (toValue(wanted) && toValue(id) !== null ? { survey_id: toValue(id)!, ...toValue(wish) } : null),
    { keep: true },
  )

/** Straightedge lines of a visit in their places, and the shape they show together. */
export const useEdges = (visit: Id, what: Get<Schemas['LineSubject']>, wanted: Get<boolean>) =>
  useApiQuery('/api/visits/{visit_id}/straightedge', () =>
    toValue(wanted) && toValue(visit) !== null ? { visit_id: toValue(visit)!, what: toValue(what) } : null,
  )

/** Cases that hold these words, newest first, a page after another. */
export const useCases = (text: Get<string>) =>
  useInfiniteQuery({
    queryKey: ['/api/cases', computed(() => toValue(text))],
    queryFn: ({ pageParam }) =>
      ask('/api/cases', { text: toValue(text), ...(pageParam ? { after: pageParam } : {}) }),
    initialPageParam: 0,
    getNextPageParam: (page) => page.after,
    placeholderData: keepPreviousData,
  })
