// Levelling at the bench by paper, and by how a first layer looks.
import { useQuery } from '@tanstack/vue-query'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'
import { give, http, type Schemas } from './client'

const visit = (id: number) => ({ path: { visit_id: id } })

export const useBench = (id: MaybeRefOrGetter<number>) =>
  useQuery({
    queryKey: ['bench', computed(() => toValue(id))],
    queryFn: () => give(http.GET('/api/visits/{visit_id}/bench', { params: visit(toValue(id)) })),
    retry: false,
  })

export const useLooks = (id: MaybeRefOrGetter<number>, printing: MaybeRefOrGetter<boolean>) =>
  useQuery({
    queryKey: ['looks', computed(() => toValue(id)), computed(() => toValue(printing))],
    queryFn: () =>
      give(
        http.GET('/api/visits/{visit_id}/looks', {
          params: { ...visit(toValue(id)), query: { printing: toValue(printing) } },
        }),
      ),
  })

export const bench = {
  step: (id: number, body: Schemas['BenchStepIn']) =>
    give(http.POST('/api/visits/{visit_id}/bench', { params: visit(id), body })),
  undo: (id: number) => give(http.POST('/api/visits/{visit_id}/bench/undo', { params: visit(id) })),
  finish: (id: number, body: Schemas['BenchFinishIn']) =>
    give(http.POST('/api/visits/{visit_id}/bench/finish', { params: visit(id), body })),
  look: (id: number, body: Schemas['LooksIn']) =>
    give(http.POST('/api/visits/{visit_id}/looks', { params: visit(id), body })),
  lookTurned: (id: number, body: Schemas['LookTurned']) =>
    give(http.POST('/api/visits/{visit_id}/looks/turned', { params: visit(id), body })),
}
