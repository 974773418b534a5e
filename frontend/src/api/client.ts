// The one way to the server.
import { QueryClient } from '@tanstack/vue-query'
import createClient from 'openapi-fetch'
import { stored } from '@/shell/written'
import { askForCode } from './entry'
import { ApiError } from './errors'
import type { components, paths } from './schema'

export { ApiError, sentence } from './errors'

export type Schemas = components['schemas']
export const http = createClient<paths>({ baseUrl: '/' })
http.use({
  onResponse({ response }) {
    stored(response)
    // removed, or its time is over: the page for a code, and nothing else
    if (response.status === 401) askForCode()
  },
})

/** Unwrap an answer, or throw what went wrong with its sentence. */
export async function give<T>(asked: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let answer
  try {
    answer = await asked
  } catch {
    throw new ApiError(0, {
      detail: 'Finchwort does not answer. What you typed is still here; start it again and try once more.',
    })
  }
  if (answer.data !== undefined && answer.response.ok) return answer.data
  throw new ApiError(answer.response.status, (answer.error ?? {}) as Partial<Schemas['Problem']>)
}

export const queryClient = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 5_000,
      // the server is this computer or one beside it: there may well be no way into the world
      networkMode: 'always',
      retry: (failures, error) =>
        !(error instanceof ApiError && error.status >= 400 && error.status < 500) && failures < 2,
    },
  },
})
