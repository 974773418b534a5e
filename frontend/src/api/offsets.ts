// The Z offset: what stands where, and its corrections.
import { useQuery } from '@tanstack/vue-query'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'
import { query } from '@/shell/format'
import { give, http, type Schemas } from './client'
import type { paths } from './schema'

const visit = (id: number) => ({ path: { visit_id: id } })

export const useOffset = (id: MaybeRefOrGetter<number>) =>
  useQuery({
    queryKey: ['offset', computed(() => toValue(id))],
    queryFn: () => give(http.GET('/api/visits/{visit_id}/offset', { params: visit(toValue(id)) })),
  })

export const useKnownOffset = (
  id: MaybeRefOrGetter<number>,
  place: MaybeRefOrGetter<Schemas['PaperIn']['place']>,
) =>
  useQuery({
    queryKey: ['known-offset', computed(() => toValue(id)), computed(() => toValue(place))],
    queryFn: () =>
      give(
        http.GET('/api/visits/{visit_id}/offset/known', {
          params: { ...visit(toValue(id)), query: { place: toValue(place) } },
        }),
      ),
  })

export const useLadder = (id: MaybeRefOrGetter<number>) =>
  useQuery({
    queryKey: ['ladder', computed(() => toValue(id))],
    queryFn: () => give(http.GET('/api/visits/{visit_id}/ladder', { params: visit(toValue(id)) })),
  })

export const useJudgedBed = (id: MaybeRefOrGetter<number>) =>
  useQuery({
    queryKey: ['judged-bed', computed(() => toValue(id))],
    queryFn: () => give(http.GET('/api/visits/{visit_id}/judged-bed', { params: visit(toValue(id)) })),
  })

export const useChanges = (printer: MaybeRefOrGetter<number>) =>
  useQuery({
    queryKey: ['changes', computed(() => toValue(printer))],
    queryFn: () =>
      give(
        http.GET('/api/printers/{printer_id}/changes', {
          params: { path: { printer_id: toValue(printer) } },
        }),
      ),
  })

export const useTold = (printer: MaybeRefOrGetter<number>) =>
  useQuery({
    queryKey: ['told', computed(() => toValue(printer))],
    queryFn: () =>
      give(
        http.GET('/api/printers/{printer_id}/told', { params: { path: { printer_id: toValue(printer) } } }),
      ),
  })

export const useStanding = (printer: MaybeRefOrGetter<number>) =>
  useQuery({
    queryKey: ['standing', computed(() => toValue(printer))],
    queryFn: () =>
      give(
        http.GET('/api/printers/{printer_id}/standing', {
          params: { path: { printer_id: toValue(printer) } },
        }),
      ),
  })

export type TestPrintWish = NonNullable<
  paths['/api/visits/{visit_id}/test-print']['get']['parameters']['query']
>
export const useTestPrint = (
  id: MaybeRefOrGetter<number>,
  wish: MaybeRefOrGetter<TestPrintWish>,
  wanted: MaybeRefOrGetter<boolean>,
) =>
  useQuery({
    queryKey: ['test-print', computed(() => toValue(id)), computed(() => toValue(wish))],
    queryFn: () =>
      give(
        http.GET('/api/visits/{visit_id}/test-print', {
          params: { ...visit(toValue(id)), query: toValue(wish) },
        }),
      ),
    enabled: computed(() => toValue(wanted)),
  })
export const testPrintFile = (id: number, wish: TestPrintWish): string =>
  `/api/visits/${id}/test-print.gcode?${query(wish)}`

export const offsets = {
  judgeBed: (id: number, body: Schemas['JudgedBedIn']) =>
    give(http.POST('/api/visits/{visit_id}/judged-bed', { params: visit(id), body })),
  change: (printer: number, body: Schemas['ChangeIn']) =>
    give(
      http.POST('/api/printers/{printer_id}/changes', { params: { path: { printer_id: printer } }, body }),
    ),
  tick: (printer: number, body: Schemas['TickIn']) =>
    give(http.POST('/api/printers/{printer_id}/after', { params: { path: { printer_id: printer } }, body })),
  leaveOut: (printer: number, body: Schemas['LeaveOutIn']) =>
    give(
      http.POST('/api/printers/{printer_id}/after/leave-out', {
        params: { path: { printer_id: printer } },
        body,
      }),
    ),
  removeChange: (id: number) =>
    give(http.DELETE('/api/changes/{change_id}', { params: { path: { change_id: id } } })),
  judge: (id: number, body: Schemas['LadderIn']) =>
    give(http.POST('/api/visits/{visit_id}/ladder', { params: visit(id), body })),
  removeTrial: (id: number) =>
    give(http.DELETE('/api/trials/{trial_id}', { params: { path: { trial_id: id } } })),
  record: (printer: number, body: Schemas['OffsetIn']) =>
    give(http.POST('/api/printers/{printer_id}/offset', { params: { path: { printer_id: printer } }, body })),
  remove: (id: number) =>
    give(http.DELETE('/api/offsets/{offset_id}', { params: { path: { offset_id: id } } })),
  restore: (id: number) =>
    give(http.POST('/api/offsets/{offset_id}/restore', { params: { path: { offset_id: id } } })),
  paper: (id: number, body: Schemas['PaperIn']) =>
    give(http.POST('/api/visits/{visit_id}/offset/paper', { params: visit(id), body })),
  patches: (id: number, body: Schemas['PatchesIn']) =>
    give(http.POST('/api/visits/{visit_id}/offset/patches', { params: visit(id), body })),
  trim: (id: number, body: Schemas['TrimIn']) =>
    give(http.POST('/api/visits/{visit_id}/offset/trim', { params: visit(id), body })),
}
