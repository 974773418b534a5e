// What the screens ask for and what they change.
import { keepPreviousData, type Query, useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, type Ref, toValue, type MaybeRefOrGetter } from 'vue'
import { beginChange, endChange } from '@/shell/undo'
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

export const useVisit = (id: Get<number | null>) =>
  useQuery({
    queryKey: ['visit', computed(() => toValue(id))],
    queryFn: () => fetchVisit(toValue(id)!),
    enabled: computed(() => toValue(id) !== null),
  })

export const fetchVisit = (id: number) =>
  give(http.GET('/api/visits/{visit_id}', { params: { path: { visit_id: id } } }))

export const useMap = (id: Get<number | null>) =>
  useQuery({
    queryKey: ['map', computed(() => toValue(id))],
    queryFn: () =>
      give(http.GET('/api/surveys/{survey_id}/map', { params: { path: { survey_id: toValue(id)! } } })),
    enabled: computed(() => toValue(id) !== null),
  })

export const useMinimumZone = (id: Get<number | null>) =>
  useQuery({
    queryKey: ['zone', computed(() => toValue(id))],
    queryFn: () =>
      give(
        http.GET('/api/surveys/{survey_id}/minimum-zone', { params: { path: { survey_id: toValue(id)! } } }),
      ),
    enabled: computed(() => toValue(id) !== null),
    staleTime: Infinity,
  })

/** How a plan is wanted: what stays, which plane counts as the tilt, and through which readings. */
export type Wish = Pick<Schemas['TurningIn'], 'hold' | 'reference' | 'points'>
export const USUAL: Wish = { hold: 'centre', reference: 'least_squares' }

export const usePlan = (id: Get<number | null>, wish: Ref<Wish>, wanted: Get<boolean> = true) =>
  useQuery({
    queryKey: ['plan', computed(() => toValue(id)), computed(() => ({ ...wish.value }))],
    queryFn: () =>
      give(
        http.GET('/api/surveys/{survey_id}/plan', {
          params: { path: { survey_id: toValue(id)! }, query: { ...wish.value } },
        }),
      ),
    enabled: computed(() => toValue(id) !== null && toValue(wanted)),
    placeholderData: keepPreviousData,
  })

type PatternQuery = {
  kind: 'grid' | 'screws'
  columns: number
  rows: number
  inset?: number
  by_probe?: boolean
}
export const fetchPattern = (printer: number, query: PatternQuery) =>
  give(http.GET('/api/printers/{printer_id}/pattern', { params: { path: { printer_id: printer }, query } }))

export const setAside = (survey: number, place: number, aside: boolean) =>
  give(
    http.PUT('/api/surveys/{survey_id}/readings/{place}', {
      params: { path: { survey_id: survey, place } },
      body: { aside },
    }),
  )
export const previewReadings = (printer: number, body: Schemas['PreviewIn']) =>
  give(http.POST('/api/printers/{printer_id}/preview', { params: { path: { printer_id: printer } }, body }))

export const useKnowledge = () =>
  useQuery({ queryKey: ['knowledge'], queryFn: () => give(http.GET('/api/knowledge')), staleTime: Infinity })

export const useFeels = () =>
  useQuery({ queryKey: ['feels'], queryFn: () => give(http.GET('/api/feels')), staleTime: Infinity })

export const useAdvice = (printer: Get<number>, wanted: Get<boolean> = true) =>
  useQuery({
    queryKey: ['advice', computed(() => toValue(printer))],
    queryFn: () =>
      give(
        http.GET('/api/printers/{printer_id}/advice', { params: { path: { printer_id: toValue(printer) } } }),
      ),
    enabled: computed(() => toValue(wanted)),
  })

export const fetchSuit = (query: { surface: string; material: string; bed?: number; nozzle?: number }) =>
  give(http.GET('/api/suit', { params: { query } }))

export const useMovement = (before: Get<number | null>, after: Get<number | null>) =>
  useQuery({
    queryKey: ['movement', computed(() => toValue(before)), computed(() => toValue(after))],
    queryFn: () =>
      give(
        http.GET('/api/surveys/{survey_id}/movement', {
          params: { path: { survey_id: toValue(after)! }, query: { before: toValue(before)! } },
        }),
      ),
    enabled: computed(
      () => toValue(before) !== null && toValue(after) !== null && toValue(before) !== toValue(after),
    ),
    retry: false,
  })

export const previewTest = (printer: number, test: Schemas['TestPreviewIn']['test']) =>
  give(
    http.POST('/api/printers/{printer_id}/tests/preview', {
      params: { path: { printer_id: printer } },
      body: { test },
    }),
  )

/**
 * A change that makes everything shown be asked for again, but for what it takes away (by the first part of its key).
 * Answers still under way are dropped first: they may have been asked for before the change.
 */
export function useChange<Input, Output>(change: (input: Input) => Promise<Output>, gone: string[] = []) {
  const client = useQueryClient()
  return useMutation({
    mutationFn: change,
    onMutate: beginChange,
    onSuccess: async () => {
      const predicate = (query: Query) => !gone.includes(String(query.queryKey[0]))
      await client.cancelQueries({ predicate })
      await client.invalidateQueries({ predicate })
    },
    onSettled: (_answer, _error, _input, number) => endChange(number!),
  })
}

const visitPath = (id: number) => ({ params: { path: { visit_id: id } } })
const printerPath = (id: number) => ({ params: { path: { printer_id: id } } })
const surveyPath = (id: number) => ({ params: { path: { survey_id: id } } })
const turningPath = (id: number) => ({ params: { path: { turning_id: id } } })
const testPath = (id: number) => ({ params: { path: { test_id: id } } })
const jobPath = (id: number) => ({ params: { path: { job_id: id } } })
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
  useSurface: (printer: number, body: Schemas['SurfaceUse']) =>
    give(http.POST('/api/printers/{printer_id}/surfaces/use', { ...printerPath(printer), body })),
  addFinding: (visit: number, body: Schemas['FindingIn']) =>
    give(http.POST('/api/visits/{visit_id}/findings', { ...visitPath(visit), body })),
  addTest: (visit: number, body: Schemas['TestIn']) =>
    give(http.POST('/api/visits/{visit_id}/tests', { ...visitPath(visit), body })),
  sortPasted: (visit: number, text: string) =>
    give(http.POST('/api/visits/{visit_id}/pasted', { ...visitPath(visit), body: { text } })),
  keepTold: (printer: number, body: Schemas['ToldIn']) =>
    give(http.POST('/api/printers/{printer_id}/told', { ...printerPath(printer), body })),
  deleteTest: (id: number) => give(http.DELETE('/api/tests/{test_id}', testPath(id))),
  restoreTest: (id: number) => give(http.POST('/api/tests/{test_id}/restore', testPath(id))),
  askJob: (printer: number, job: Schemas['JobWanted']['job']) =>
    give(http.POST('/api/printers/{printer_id}/jobs/ask', { ...printerPath(printer), body: { job } })),
  addJob: (printer: number, body: Schemas['JobIn']) =>
    give(http.POST('/api/printers/{printer_id}/jobs', { ...printerPath(printer), body })),
  stopJob: (id: number, how: 'soft' | 'now') =>
    give(http.POST('/api/jobs/{job_id}/stop', { ...jobPath(id), body: { how } })),
  keepJob: (id: number) => give(http.POST('/api/jobs/{job_id}/keep', jobPath(id))),
  readings: (survey: number) => fetch(`/api/surveys/${survey}/readings.json`).then((answer) => answer.text()),
  logbook: (query: { q?: string; printer?: number; kind?: Schemas['EntryOut']['kind']; before?: string }) =>
    give(http.GET('/api/logbook', { params: { query } })),
  addNote: (body: Schemas['NoteIn']) => give(http.POST('/api/logbook', { body })),
  deleteNote: (id: number) => give(http.DELETE('/api/logbook/{entry_id}', entryPath(id))),
  restoreNote: (id: number) => give(http.POST('/api/logbook/{entry_id}/restore', entryPath(id))),
}
