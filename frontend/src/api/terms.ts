// The words of the trade, each in one sentence.
import { useQuery } from '@tanstack/vue-query'
import { toValue, type MaybeRefOrGetter } from 'vue'
import { give, http } from './client'

export const useTerms = (wanted: MaybeRefOrGetter<boolean> = true) =>
  useQuery({
    queryKey: ['terms'],
    queryFn: () => give(http.GET('/api/terms')),
    staleTime: Infinity,
    enabled: () => toValue(wanted),
  })
