// Asking the server, by the routes of its own description: what a route needs and gives is known from there, so there
// is no function to write for each.
import { keepPreviousData, useQuery, type UseQueryReturnType } from '@tanstack/vue-query'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'
import { give, http, queryClient } from './client'
import type { paths } from './schema'

export type Method = 'get' | 'post' | 'put' | 'patch' | 'delete'
type At<M extends Method, P extends keyof paths> = NonNullable<paths[P][M]>
/** The routes that answer to a method. */
export type Route<M extends Method> = {
  [P in keyof paths]: paths[P][M] extends { responses: unknown } ? P : never
}[keyof paths]

type Part<O, Name extends string> = O extends { parameters: { [N in Name]?: infer Given } }
  ? Given extends object
    ? Given
    : unknown
  : unknown
/** What stands in the path and behind the question mark of a route, side by side. */
export type Params<M extends Method, P extends Route<M>> = Part<At<M, P>, 'path'> & Part<At<M, P>, 'query'>
type Made<O> = O extends { responses: infer Answers } ? Json<Answers[keyof Answers & (200 | 201)]> : never
type Json<T> = T extends { content: { 'application/json': infer Told } } ? Told : never
export type Answer<M extends Method, P extends Route<M>> = Made<At<M, P>>
export type Body<M extends Method, P extends Route<M>> =
  At<M, P> extends { requestBody?: { content: { 'application/json': infer Sent } } } ? Sent : unknown

type Needs<P> = unknown extends P ? [params?: undefined] : object extends P ? [params?: P] : [params: P]
type Told<M extends Method, P extends Route<M>> =
  unknown extends Body<M, P> ? [body?: undefined] : [body: Body<M, P>]
export type Sent<M extends Method, P extends Route<M>> = [
  params: unknown extends Params<M, P> ? Record<string, never> : Params<M, P>,
  ...body: Told<M, P>,
]

type Loose = (method: Method, route: string, init: object) => Parameters<typeof give>[0]

/** Send to a route; nothing that is shown is asked for again. */
export function call<M extends Method, P extends Route<M>>(
  method: M,
  route: P,
  ...[params, body]: Sent<M, P>
): Promise<Answer<M, P>> {
  const path: Record<string, unknown> = {}
  const query: Record<string, unknown> = {}
  for (const [name, value] of Object.entries(params as object))
    (route.includes(`{${name}}`) ? path : query)[name] = value
  return give((http.request as Loose)(method, route, { params: { path, query }, body })) as Promise<
    Answer<M, P>
  >
}

/** Ask a route once. */
export const ask = <P extends Route<'get'>>(
  route: P,
  ...[params]: Needs<Params<'get', P>>
): Promise<Answer<'get', P>> =>
  (call as (...all: unknown[]) => Promise<Answer<'get', P>>)('get', route, params ?? {})

export interface Asking<Told> {
  /** While it is asked for something else, the answer before goes on being shown. */
  keep?: boolean
  /** It does not change while the page is open. */
  fixed?: boolean
  /** Not again by itself when it was refused. */
  once?: boolean
  /** Asked for again after so many milliseconds, as long as it says so. */
  again?: (told: Told | undefined) => number | false
  /** How long an answer is new, in milliseconds. */
  fresh?: number
}

/** How a question is asked of the server: kept under its route and what it asks about. */
export function asking<Told>(send: () => Promise<Told>, key: unknown[], how: Asking<Told> = {}) {
  return {
    queryKey: key,
    queryFn: send,
    ...(how.keep ? { placeholderData: keepPreviousData } : {}),
    ...(how.fixed ? { staleTime: Infinity } : how.fresh === undefined ? {} : { staleTime: how.fresh }),
    ...(how.once ? { retry: false } : {}),
  }
}

/** Ask for what will be shown in a moment; when it is, the answer is there or under way. */
export async function askAhead<P extends Route<'get'>>(
  route: P,
  ...[params]: Sent<'get', P>
): Promise<Answer<'get', P> | undefined> {
  const send = () => call('get', route, ...([params] as unknown as Sent<'get', P>))
  // what went wrong is said by the page, which asks again
  return queryClient.fetchQuery({ queryKey: [route, params], queryFn: send }).catch(() => undefined)
}

type Wanted<T> = MaybeRefOrGetter<(unknown extends T ? Record<string, never> : T) | null>
type Queried<T> = unknown extends T
  ? [params?: Wanted<T>]
  : object extends T
    ? [params?: Wanted<T>]
    : [params: Wanted<T>]

/** What a route says, kept and asked for again when something was changed. `null` for the parameters: not asked. */
export function useApiQuery<P extends Route<'get'>>(
  route: P,
  ...rest: [...Queried<Params<'get', P>>, how?: Asking<Answer<'get', P>>]
): UseQueryReturnType<Answer<'get', P>, Error> {
  const [params = {}, how = {}] = rest as unknown as [Wanted<object>?, Asking<Answer<'get', P>>?]
  const given = computed(() => toValue(params))
  const { again } = how
  return useQuery({
    ...asking(() => call('get', route, ...([given.value] as unknown as Sent<'get', P>)), [route, given], how),
    enabled: computed(() => given.value !== null),
    ...(again
      ? { refetchInterval: (query: { state: { data: unknown } }) => again(query.state.data as never) }
      : {}),
  }) as UseQueryReturnType<Answer<'get', P>, Error>
}

/** What a route that is asked by sending a body says of it; nothing is stored by such a one. */
export function useApiAnswer<P extends Route<'post'>>(
  route: P,
  sent: MaybeRefOrGetter<Sent<'post', P> | null>,
  how: Asking<Answer<'post', P>> = {},
): UseQueryReturnType<Answer<'post', P>, Error> {
  const given = computed(() => toValue(sent))
  return useQuery({
    ...asking(() => call('post', route, ...given.value!), [route, given], how),
    enabled: computed(() => given.value !== null),
    gcTime: 60_000,
  }) as UseQueryReturnType<Answer<'post', P>, Error>
}
