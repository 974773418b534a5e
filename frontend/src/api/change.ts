// Changing what the server keeps: sent once, waited for, said with an undo, and what is shown is asked for again.
import type { Query } from '@tanstack/vue-query'
import { reactive, ref, type Ref } from 'vue'
import { newKey } from '@/shell/format'
import { patiently } from '@/shell/patience'
import { attempt, beginChange, endChange, tell } from '@/shell/undo'
import { call, type Answer, type Body, type Method, type Route, type Sent } from './ask'
import { ApiError, queryClient, sentence, type Schemas } from './client'

/**
 * A change that makes everything shown be asked for again, but for what it takes away (by the beginning of its route).
 * Answers still under way are dropped first: they may have been asked for before the change.
 */
export async function changing<T>(change: () => Promise<T>, gone: string[] = []): Promise<T> {
  const number = beginChange()
  try {
    const made = await change()
    const predicate = ({ queryKey: [route] }: Query) => !gone.some((one) => String(route).startsWith(one))
    await queryClient.cancelQueries({ predicate })
    await queryClient.invalidateQueries({ predicate })
    return made
  } finally {
    endChange(number)
  }
}

/** Change what a route keeps. */
export const send = <M extends Method, P extends Route<M>>(
  method: M,
  route: P,
  ...sent: Sent<M, P>
): Promise<Answer<M, P>> => changing(() => call(method, route, ...sent))

/** What is deleted and can be brought back: its route, and the same with `/restore`. */
type Restorable = {
  [P in Route<'delete'>]: `${P}/restore` extends Route<'post'> ? P : never
}[Route<'delete'>]

/** Delete, say so, and offer to bring it back. */
export const takeAway = <P extends Restorable>(
  route: P,
  params: Sent<'delete', P>[0],
  said: string,
  gone: string[] = [],
): Promise<void> => {
  const loose = call as unknown as (method: Method, route: string, params: unknown) => Promise<unknown>
  return attempt(
    () => changing(() => loose('delete', route, params), gone),
    said,
    () => changing(() => loose('post', `${route}/restore`, params)),
  )
}

/**
 * Send with a key, so that sending again after a lost answer stores nothing twice.
 * When the key stands for something else by now, this is something new and gets a key of its own.
 * While the server is away it waits and sends again by itself, unless it must not come late: a machine that is to move.
 */
export async function sendKeyed<T>(
  key: { value: string },
  send: (key: string) => Promise<T>,
  patient = true,
): Promise<T> {
  const once = (): Promise<T> => (patient ? patiently(() => send(key.value)) : send(key.value))
  try {
    return await once()
  } catch (error) {
    if (!(error instanceof ApiError && error.keyTaken)) throw error
    key.value = newKey()
    return once()
  }
}

interface Manner {
  /** The key under which it is sent, where a draft keeps it. */
  key?: Ref<string>
  /** What it takes away, by the beginning of the routes. */
  gone?: string[]
  /**
   * Whether it waits for a server that is away and sends again: not where a machine moves, and not what has no key
   * where twice is once too often.
   */
  patient?: boolean
  /** What goes wrong is said at the foot of the page: where a button has no room for it beside. */
  aloud?: boolean
}

export interface Sending {
  busy: boolean
  /** What went wrong, or what is missing, in a sentence. */
  trouble: string
  /** What is wrong with a field, by its name. */
  wrong: Record<string, string>
  /** Somebody else changed it meanwhile. */
  stale: boolean
  /** Lines of a text that could not be read. */
  lines: Schemas['LineProblem'][]
  /** Send under a key; what was made, or nothing where it went wrong: then `trouble` says why. */
  run<T>(
    what: (client_key: string) => Promise<T>,
    said?: string,
    undo?: (made: T) => Promise<unknown>,
  ): Promise<T | null>
  /** Something is missing and nothing is sent. */
  lacks(sentence: string): null
}

/** One way to send from a page: under a key of its own, pending while it goes, with what went wrong. */
export function useSending({
  key = ref(newKey()),
  gone = [],
  patient = true,
  aloud = false,
}: Manner = {}): Sending {
  let under = 0
  const state = reactive<Sending>({
    busy: false,
    trouble: '',
    wrong: {},
    stale: false,
    lines: [],
    run,
    lacks,
  })
  function lacks(sentence: string): null {
    state.trouble = sentence
    return null
  }
  async function run<T>(
    what: (client_key: string) => Promise<T>,
    said = '',
    undo?: (made: T) => Promise<unknown>,
  ): Promise<T | null> {
    Object.assign(state, { trouble: '', wrong: {}, stale: false, lines: [], busy: ++under > 0 })
    try {
      const made = await sendKeyed(
        key,
        (client_key) =>
          changing(async () => {
            const stored = await what(client_key)
            // at once: the page may show the next step before all of it has been asked for again
            key.value = newKey()
            return stored
          }, gone),
        patient,
      )
      if (said) tell(said, undo && (() => undo(made)))
      return made
    } catch (error) {
      state.trouble = sentence(error)
      if (aloud) tell(state.trouble)
      if (error instanceof ApiError) {
        state.wrong = Object.fromEntries((error.problem.errors ?? []).map((one) => [one.field, one.message]))
        state.stale = error.stale
        state.lines = error.problem.lines ?? []
      }
      return null
    } finally {
      state.busy = --under > 0
    }
  }
  return state
}

type Keyless<T> = T extends unknown ? Omit<T, 'client_key'> : never
interface Submitting<Made> extends Manner {
  said?: string | ((made: Made) => string)
  undo?: (made: Made) => Promise<unknown>
}

/** A form that sends to one route, whose bodies carry a key: `const { send } = useSubmit(...)`. */
export function useSubmit<M extends 'post' | 'put', P extends Route<M>>(
  method: M,
  route: P,
  params: () => Sent<M, P>[0],
  { said = '', undo, ...manner }: Submitting<Answer<M, P>> = {},
) {
  const sending = useSending(manner)
  const submit = async (body: Keyless<Body<M, P>>): Promise<Answer<M, P> | null> => {
    const where = params()
    const made = await sending.run((client_key) =>
      call(method, route, ...([where, { ...body, client_key }] as unknown as Sent<M, P>)),
    )
    if (made !== null && said) tell(typeof said === 'string' ? said : said(made), undo && (() => undo(made)))
    return made
  }
  return Object.assign(sending, { submit })
}
