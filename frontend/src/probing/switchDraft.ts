// A table of switch states, half filled in: kept until it is stored.
import type { RemovableRef } from '@vueuse/core'
import { useDraft } from '@/shell/draft'
import { newKey } from '@/shell/format'

export type State = 'open' | 'triggered'
export type States = Record<string, State>
export type Wiring = 'normally_open' | 'normally_closed' | 'unknown'
export interface SwitchDraft {
  key: string
  names: string[]
  wiring: Record<string, Wiring>
  untouched: States
  pressed: Record<string, States>
  probe: { stowed: State | ''; deployed: State | ''; touched: State | '' }
}

export const freshSwitches = (): SwitchDraft => ({
  key: newKey(),
  names: ['x', 'y', 'z'],
  wiring: {},
  untouched: {},
  pressed: {},
  probe: { stowed: '', deployed: '', touched: '' },
})
export const useSwitchDraft = (visit: number): RemovableRef<SwitchDraft> =>
  useDraft<SwitchDraft>(`switches-${visit}`, freshSwitches(), `finchwort-switches-${visit}`).kept

/** Put states that were read into the table: the free ones first, then those of whichever answered. */
export function takeStates(draft: SwitchDraft, states: States): void {
  const free = draft.untouched
  const names = Object.keys(states)
  const answered = names.filter((name) => states[name] === 'triggered')
  if (
    names.every((name) => free[name] !== undefined) &&
    answered.length === 1 &&
    free[answered[0]!] === 'open'
  )
    draft.pressed = { ...draft.pressed, [answered[0]!]: { ...states } }
  else Object.assign(draft, { names, untouched: { ...states }, pressed: {} })
}
