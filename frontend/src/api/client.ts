// The one way to the server.
import { QueryClient } from '@tanstack/vue-query'
import createClient from 'openapi-fetch'
import { stored } from '@/shell/written'
import { newKey } from '@/shell/format'
import { patiently } from '@/shell/patience'
import type { components, paths } from './schema'

export type Schemas = components['schemas']
type Problem = Schemas['Problem']

export class ApiError extends Error {
  constructor(
    readonly status: number,
    readonly problem: Partial<Problem>,
  ) {
    super(problem.detail ?? 'The server did not answer. Is Finchwort still running?')
  }

  get stale(): boolean {
    return this.status === 409 && this.problem.type === 'stale'
  }

  /** Nobody knows where bed or tip are: a look with paper would tell. */
  get unknownGround(): boolean {
    return this.problem.type === 'unknown-ground'
  }

  get keyTaken(): boolean {
    return this.status === 409 && this.problem.type === 'key-taken'
  }
}

export const http = createClient<paths>({ baseUrl: '/' })
http.use({
  onResponse({ response }) {
    stored(response)
    // removed, or its time is over: the page for a code, and nothing else
    if (response.status === 401) window.location.assign('/pair')
  },
})

/** Unwrap an answer, or throw what went wrong with its sentence. */
export async function give<T>(
  asked: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<T> {
  let answer
  try {
    answer = await asked
  } catch {
    throw new ApiError(0, {
      detail: 'Finchwort does not answer. What you typed is still here; start it again and try once more.',
    })
  }
  if (answer.data !== undefined && answer.response.ok) return answer.data
  throw new ApiError(answer.response.status, (answer.error ?? {}) as Partial<Problem>)
}

/**
 * Send with a key, so that sending again after a lost answer stores nothing twice.
 * When the key stands for something else by now, this is something new and gets a key of its own.
 * While the server is away it waits and sends again by itself, unless it must not come late: a machine that is to move.
 */
export async function sendKeyed<T>(key: { value: string }, send: (key: string) => Promise<T>, patient = true): Promise<T> {
  const once = (): Promise<T> => (patient ? patiently(() => send(key.value)) : send(key.value))
  try {
    return await once()
  } catch (error) {
    if (!(error instanceof ApiError && error.keyTaken)) throw error
    key.value = newKey()
    return once()
  }
}

export const queryClient = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 5_000,
      retry: (failures, error) => !(error instanceof ApiError && error.status >= 400 && error.status < 500) && failures < 2,
    },
  },
})

export function sentence(error: unknown): string {
  return error instanceof Error ? error.message : 'Something went wrong.'
}
