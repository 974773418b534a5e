// Cases: what was seen, what it may be, what to look at next.
import { keepPreviousData, useInfiniteQuery, useQuery } from '@tanstack/vue-query'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'
import { give, http, type Schemas } from './client'

const at = (id: number) => ({ params: { path: { case_id: id } } })

export const useCases = (text: MaybeRefOrGetter<string>) =>
  useInfiniteQuery({
    queryKey: ['cases', computed(() => toValue(text))],
    queryFn: ({ pageParam }) =>
      give(
        http.GET('/api/cases', {
          params: { query: { text: toValue(text), ...(pageParam ? { after: pageParam } : {}) } },
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: (page) => page.after,
    placeholderData: keepPreviousData,
  })
export const useCase = (id: MaybeRefOrGetter<number>) =>
  useQuery({
    queryKey: ['case', computed(() => toValue(id))],
    queryFn: () => give(http.GET('/api/cases/{case_id}', at(toValue(id)))),
  })
export const useCaseForm = (printer: MaybeRefOrGetter<number>) =>
  useQuery({
    queryKey: ['case-form', computed(() => toValue(printer))],
    queryFn: () =>
      give(
        http.GET('/api/printers/{printer_id}/case-form', {
          params: { path: { printer_id: toValue(printer) } },
        }),
      ),
  })
export const useCauses = () =>
  useQuery({ queryKey: ['causes'], queryFn: () => give(http.GET('/api/causes')), staleTime: Infinity })
export const useBeliefs = () =>
  useQuery({ queryKey: ['beliefs'], queryFn: () => give(http.GET('/api/beliefs')) })
export const useTable = () => useQuery({ queryKey: ['table'], queryFn: () => give(http.GET('/api/table')) })

export const cases = {
  open: (printer: number, body: Schemas['CaseIn']) =>
    give(http.POST('/api/printers/{printer_id}/cases', { params: { path: { printer_id: printer } }, body })),
  sign: (id: number, body: Schemas['AnswerIn']) =>
    give(http.POST('/api/cases/{case_id}/signs', { ...at(id), body })),
  check: (id: number, body: Schemas['CheckIn']) =>
    give(http.POST('/api/cases/{case_id}/checks', { ...at(id), body })),
  remedy: (id: number, body: Schemas['RemedyIn']) =>
    give(http.POST('/api/cases/{case_id}/remedies', { ...at(id), body })),
  outcome: (id: number, event: number, body: Schemas['OutcomeIn']) =>
    give(
      http.POST('/api/cases/{case_id}/remedies/{event_id}', {
        params: { path: { case_id: id, event_id: event } },
        body,
      }),
    ),
  close: (id: number, body: Schemas['CloseIn']) =>
    give(http.POST('/api/cases/{case_id}/close', { ...at(id), body })),
  reopen: (id: number, body: Schemas['ReopenIn']) =>
    give(http.POST('/api/cases/{case_id}/reopen', { ...at(id), body })),
  remove: (id: number) => give(http.DELETE('/api/cases/{case_id}', at(id))),
  restore: (id: number) => give(http.POST('/api/cases/{case_id}/restore', at(id))),
  removeEvent: (id: number) =>
    give(http.DELETE('/api/case-events/{event_id}', { params: { path: { event_id: id } } })),
  restoreEvent: (id: number) =>
    give(http.POST('/api/case-events/{event_id}/restore', { params: { path: { event_id: id } } })),
  own: (body: Schemas['OwnPairIn']) => give(http.POST('/api/table/own', { body })),
  removeOwn: (id: number) =>
    give(http.DELETE('/api/table/own/{pair_id}', { params: { path: { pair_id: id } } })),
  restoreOwn: (id: number) =>
    give(http.POST('/api/table/own/{pair_id}/restore', { params: { path: { pair_id: id } } })),
  merge: (body: Schemas['MergeIn']) => give(http.POST('/api/beliefs/imports', { body })),
  removeImport: (id: number) =>
    give(http.DELETE('/api/beliefs/imports/{import_id}', { params: { path: { import_id: id } } })),
  restoreImport: (id: number) =>
    give(http.POST('/api/beliefs/imports/{import_id}/restore', { params: { path: { import_id: id } } })),
}
