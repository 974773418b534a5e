// Levelling beyond turning screws: shims, beam, what is left, meshes, what was learned, drift.
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, toValue, type MaybeRefOrGetter, type Ref } from 'vue'
import { give, http, type Schemas } from './client'

type Get<T> = MaybeRefOrGetter<T>
const survey = (id: Get<number | null>) => ({ path: { survey_id: toValue(id)! } })
const given = (id: Get<number | null>, wanted: Get<boolean>) =>
  computed(() => toValue(id) !== null && toValue(wanted))

export const useFoils = (wanted: Get<boolean> = true) =>
  useQuery({
    queryKey: ['foils'],
    queryFn: () => give(http.GET('/api/foils')),
    enabled: computed(() => toValue(wanted)),
  })

export const useShims = (id: Get<number | null>, lower: Ref<number>, wanted: Get<boolean>) =>
  useQuery({
    queryKey: ['shims', computed(() => toValue(id)), lower],
    queryFn: () =>
      give(
        http.GET('/api/surveys/{survey_id}/shims', {
          params: { ...survey(id), query: { lower_middle: lower.value } },
        }),
      ),
    enabled: given(id, wanted),
    placeholderData: keepPreviousData,
    retry: false,
  })

export const useTape = (id: Get<number | null>, thickness: Ref<number>, wanted: Get<boolean>) =>
  useQuery({
    queryKey: ['tape', computed(() => toValue(id)), thickness],
    queryFn: () =>
      give(
        http.GET('/api/surveys/{survey_id}/tape', {
          params: { ...survey(id), query: { thickness: thickness.value } },
        }),
      ),
    enabled: given(id, wanted),
    placeholderData: keepPreviousData,
    retry: false,
  })

/** What is to be done at the printer, one instruction at a time. */
export const useCards = (visit: Get<number>, query: Get<{ lower_middle?: number; tape?: number }>) =>
  useQuery({
    queryKey: ['cards', computed(() => toValue(visit)), computed(() => ({ ...toValue(query) }))],
    queryFn: () =>
      give(
        http.GET('/api/visits/{visit_id}/cards', {
          params: { path: { visit_id: toValue(visit) }, query: toValue(query) },
        }),
      ),
    retry: false,
  })

export const measureFoil = (together: number, pieces: number) =>
  give(http.GET('/api/foils/measured', { params: { query: { together, pieces } } }))

export const useBeam = (id: Get<number | null>, wanted: Get<boolean>) =>
  useQuery({
    queryKey: ['beam', computed(() => toValue(id))],
    queryFn: () => give(http.GET('/api/surveys/{survey_id}/beam', { params: survey(id) })),
    enabled: given(id, wanted),
  })

/** Straightedge lines of a visit in their places, and the shape they show together. */
export const useEdges = (visit: Get<number | null>, what: Get<'plate' | 'carrier'>, wanted: Get<boolean>) =>
  useQuery({
    queryKey: ['straightedge', computed(() => toValue(visit)), computed(() => toValue(what))],
    queryFn: () =>
      give(
        http.GET('/api/visits/{visit_id}/straightedge', {
          params: { path: { visit_id: toValue(visit)! }, query: { what: toValue(what) } },
        }),
      ),
    enabled: given(visit, wanted),
  })

export const beamRow = (visit: number, text: string, values: 'height' | 'gap') =>
  give(
    http.POST('/api/visits/{visit_id}/beam-row', {
      params: { path: { visit_id: visit } },
      body: { text, values },
    }),
  )

export const useLeft = (id: Get<number | null>) =>
  useQuery({
    queryKey: ['left', computed(() => toValue(id))],
    queryFn: () => give(http.GET('/api/surveys/{survey_id}/left', { params: survey(id) })),
    enabled: computed(() => toValue(id) !== null),
  })

export type MeshWish = Omit<Extract<Schemas['AdjustmentIn']['adjustment'], { kind: 'mesh' }>, 'kind'>
export const useCompensation = (id: Get<number | null>, wish: Ref<MeshWish>) =>
  useQuery({
    queryKey: ['compensation', computed(() => toValue(id)), computed(() => ({ ...wish.value }))],
    queryFn: () =>
      give(
        http.GET('/api/surveys/{survey_id}/compensation', {
          params: { ...survey(id), query: { ...wish.value } },
        }),
      ),
    enabled: computed(() => toValue(id) !== null),
    placeholderData: keepPreviousData,
    retry: false,
  })

export const useLearned = (printer: Get<number>, wanted: Get<boolean>) =>
  useQuery({
    queryKey: ['learned', computed(() => toValue(printer))],
    queryFn: () =>
      give(
        http.GET('/api/printers/{printer_id}/learned', {
          params: { path: { printer_id: toValue(printer) } },
        }),
      ),
    enabled: computed(() => toValue(wanted)),
  })

export const useDrift = (printer: Get<number>) =>
  useQuery({
    queryKey: ['drift', computed(() => toValue(printer))],
    queryFn: () =>
      give(
        http.GET('/api/printers/{printer_id}/drift', { params: { path: { printer_id: toValue(printer) } } }),
      ),
  })

export const levelling = {
  whatIf: (id: number, body: Schemas['WhatIfIn']) =>
    give(http.POST('/api/surveys/{survey_id}/what-if', { params: survey(id), body })),
  putFoils: (body: Schemas['FoilsIn']) => give(http.PUT('/api/foils', { body })),
  tellFoil: (printer: number, body: Schemas['FoilUnderIn']) =>
    give(http.PUT('/api/printers/{printer_id}/foil', { params: { path: { printer_id: printer } }, body })),
  adjust: (id: number, body: Schemas['AdjustmentIn']) =>
    give(http.POST('/api/surveys/{survey_id}/adjustments', { params: survey(id), body })),
  deleteAdjustment: (id: number) =>
    give(http.DELETE('/api/adjustments/{adjustment_id}', { params: { path: { adjustment_id: id } } })),
  restoreAdjustment: (id: number) =>
    give(http.POST('/api/adjustments/{adjustment_id}/restore', { params: { path: { adjustment_id: id } } })),
  setLearned: (printer: number, body: Schemas['MendedIn']) =>
    give(http.PUT('/api/printers/{printer_id}/learned', { params: { path: { printer_id: printer } }, body })),
}
