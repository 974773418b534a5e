// The Z offset: what stands where, and its corrections.
import { useQuery } from '@tanstack/vue-query'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'
import { give, http, type Schemas } from './client'

const visit = (id: number) => ({ path: { visit_id: id } })

export const useOffset = (id: MaybeRefOrGetter<number>) =>
  useQuery({ queryKey: ['offset', computed(() => toValue(id))], queryFn: () => give(http.GET('/api/visits/{visit_id}/offset', { params: visit(toValue(id)) })) })

export const useLadder = (id: MaybeRefOrGetter<number>) =>
  useQuery({ queryKey: ['ladder', computed(() => toValue(id))], queryFn: () => give(http.GET('/api/visits/{visit_id}/ladder', { params: visit(toValue(id)) })) })

export const offsets = {
  judge: (id: number, body: Schemas['LadderIn']) => give(http.POST('/api/visits/{visit_id}/ladder', { params: visit(id), body })),
  removeTrial: (id: number) => give(http.DELETE('/api/trials/{trial_id}', { params: { path: { trial_id: id } } })),
  record: (printer: number, body: Schemas['OffsetIn']) => give(http.POST('/api/printers/{printer_id}/offset', { params: { path: { printer_id: printer } }, body })),
  remove: (id: number) => give(http.DELETE('/api/offsets/{offset_id}', { params: { path: { offset_id: id } } })),
  restore: (id: number) => give(http.POST('/api/offsets/{offset_id}/restore', { params: { path: { offset_id: id } } })),
  paper: (id: number, body: Schemas['PaperIn']) => give(http.POST('/api/visits/{visit_id}/offset/paper', { params: visit(id), body })),
  patches: (id: number, body: Schemas['PatchesIn']) => give(http.POST('/api/visits/{visit_id}/offset/patches', { params: visit(id), body })),
  trim: (id: number, body: Schemas['TrimIn']) => give(http.POST('/api/visits/{visit_id}/offset/trim', { params: visit(id), body })),
}
