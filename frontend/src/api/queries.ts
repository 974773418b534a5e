// What the screens ask for and what they change.
import { keepPreviousData, type Query, useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, type Ref, toValue, type MaybeRefOrGetter } from 'vue'
import { give, http, type Schemas } from './client'

type Get<T> = MaybeRefOrGetter<T>

export const useWorkshop = () =>
  useQuery({ queryKey: ['workshop'], queryFn: () => give(http.GET('/api/workshop')) })

export const useThreads = () =>
  useQuery({ queryKey: ['threads'], queryFn: () => give(http.GET('/api/threads')), staleTime: Infinity })

export const usePrinter = (id: Get<number | null>) =>
  useQuery({
    queryKey: ['printer', computed(() => toValue(id))],
    queryFn: () => fetchPrinter(toValue(id)!),
    enabled: computed(() => toValue(id) !== null),
  })

export const fetchPrinter = (id: number) =>
  give(http.GET('/api/printers/{printer_id}', { params: { path: { printer_id: id } } }))

export const useVisit = (id: Get<number>) =>
  useQuery({ queryKey: ['visit', computed(() => toValue(id))], queryFn: () => fetchVisit(toValue(id)) })

export const fetchVisit = (id: number) =>
  give(http.GET('/api/visits/{visit_id}', { params: { path: { visit_id: id } } }))

export const useMap = (id: Get<number | null>) =>
  useQuery({
    queryKey: ['map', computed(() => toValue(id))],
    queryFn: () => give(http.GET('/api/surveys/{survey_id}/map', { params: { path: { survey_id: toValue(id)! } } })),
    enabled: computed(() => toValue(id) !== null),
  })

export const useMinimumZone = (id: Get<number | null>) =>
  useQuery({
    queryKey: ['zone', computed(() => toValue(id))],
    queryFn: () =>
      give(http.GET('/api/surveys/{survey_id}/minimum-zone', { params: { path: { survey_id: toValue(id)! } } })),
    enabled: computed(() => toValue(id) !== null),
    staleTime: Infinity,
  })

export const usePlan = (id: Get<number | null>, hold: Ref<string>, wanted: Get<boolean> = true) =>
  useQuery({
    queryKey: ['plan', computed(() => toValue(id)), hold],
    queryFn: () =>
      give(
        http.GET('/api/surveys/{survey_id}/plan', {
          params: { path: { survey_id: toValue(id)! }, query: { hold: hold.value } },
        }),
      ),
    enabled: computed(() => toValue(id) !== null && toValue(wanted)),
    placeholderData: keepPreviousData,
  })

export const fetchPattern = (printer: number, query: { kind: 'grid' | 'screws'; columns: number; rows: number }) =>
  give(http.GET('/api/printers/{printer_id}/pattern', { params: { path: { printer_id: printer }, query } }))

export const previewReadings = (printer: number, body: Schemas['PreviewIn']) =>
  give(http.POST('/api/printers/{printer_id}/preview', { params: { path: { printer_id: printer } }, body }))

/**
 * A change that makes everything shown be asked for again, but for what it takes away (by the first part of its key).
 * Answers still under way are dropped first: they may have been asked for before the change.
 */
export function useChange<Input, Output>(change: (input: Input) => Promise<Output>, gone: string[] = []) {
  const client = useQueryClient()
  return useMutation({
    mutationFn: change,
    onSuccess: async () => {
      const predicate = (query: Query) => !gone.includes(String(query.queryKey[0]))
      await client.cancelQueries({ predicate })
      await client.invalidateQueries({ predicate })
    },
  })
}

const visitPath = (id: number) => ({ params: { path: { visit_id: id } } })
const printerPath = (id: number) => ({ params: { path: { printer_id: id } } })
const surveyPath = (id: number) => ({ params: { path: { survey_id: id } } })
const turningPath = (id: number) => ({ params: { path: { turning_id: id } } })
const entryPath = (id: number) => ({ params: { path: { entry_id: id } } })

export const api = {
  renameWorkshop: (body: Schemas['WorkshopIn']) => give(http.PUT('/api/workshop', { body })),
  suggest: (body: Schemas['SuggestIn']) => give(http.POST('/api/suggestions', { body })),
  createPrinter: (body: Schemas['PrinterIn']) => give(http.POST('/api/printers', { body })),
  changePrinter: (id: number, body: Schemas['PrinterChange']) =>
    give(http.PUT('/api/printers/{printer_id}', { ...printerPath(id), body })),
  deletePrinter: (id: number) => give(http.DELETE('/api/printers/{printer_id}', printerPath(id))),
  restorePrinter: (id: number) => give(http.POST('/api/printers/{printer_id}/restore', printerPath(id))),
  startVisit: (printer: number) =>
    give(http.POST('/api/printers/{printer_id}/visits', { ...printerPath(printer), body: {} })),
  changeVisit: (id: number, body: Schemas['VisitChange']) =>
    give(http.PATCH('/api/visits/{visit_id}', { ...visitPath(id), body })),
  finishVisit: (id: number, note: string) =>
    give(http.POST('/api/visits/{visit_id}/finish', { ...visitPath(id), body: { note } })),
  reopenVisit: (id: number) => give(http.POST('/api/visits/{visit_id}/reopen', visitPath(id))),
  deleteVisit: (id: number) => give(http.DELETE('/api/visits/{visit_id}', visitPath(id))),
  restoreVisit: (id: number) => give(http.POST('/api/visits/{visit_id}/restore', visitPath(id))),
  addSurvey: (visit: number, body: Schemas['SurveyIn']) =>
    give(http.POST('/api/visits/{visit_id}/surveys', { ...visitPath(visit), body })),
  deleteSurvey: (id: number) => give(http.DELETE('/api/surveys/{survey_id}', surveyPath(id))),
  restoreSurvey: (id: number) => give(http.POST('/api/surveys/{survey_id}/restore', surveyPath(id))),
  addTurning: (survey: number, body: Schemas['TurningIn']) =>
    give(http.POST('/api/surveys/{survey_id}/turnings', { ...surveyPath(survey), body })),
  deleteTurning: (id: number) => give(http.DELETE('/api/turnings/{turning_id}', turningPath(id))),
  restoreTurning: (id: number) => give(http.POST('/api/turnings/{turning_id}/restore', turningPath(id))),
  logbook: (query: { q?: string; printer?: number; kind?: Schemas['EntryOut']['kind']; before?: string }) =>
    give(http.GET('/api/logbook', { params: { query } })),
  addNote: (body: Schemas['NoteIn']) => give(http.POST('/api/logbook', { body })),
  deleteNote: (id: number) => give(http.DELETE('/api/logbook/{entry_id}', entryPath(id))),
  restoreNote: (id: number) => give(http.POST('/api/logbook/{entry_id}/restore', entryPath(id))),
}
