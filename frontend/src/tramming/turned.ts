// What was turned, as steps of the hand, ready to be changed and recorded.
import { send, useSubmit } from '@/api/change'
import type { Schemas } from '@/api/client'
import type { Wish } from '@/api/shown'

export interface Done {
  name: string
  action: 'tighten' | 'loosen' | 'leave'
  steps: number
  divisions: number
}

export const asPlanned = (plan: Schemas['PlanOut']): Done[] =>
  plan.turns.map((t) => ({
    name: t.name,
    action: t.action,
    steps: Math.round(Math.abs(t.rounded) * t.divisions),
    divisions: t.divisions,
  }))

/** The same for turns that were tried out. */
export const asTried = (plan: Schemas['PlanOut'], turns: Record<string, number>): Done[] =>
  plan.turns.map((t) => {
    const made = turns[t.name] ?? 0
    return {
      name: t.name,
      action: made > 0 ? 'tighten' : made < 0 ? 'loosen' : 'leave',
      steps: Math.round(Math.abs(made) * t.divisions),
      divisions: t.divisions,
    }
  })

export const DONE = { tighten: 'tightened', loosen: 'loosened', leave: 'not turned' } as const

/** Record what was turned, with an undo. */
export function useTurned(survey: () => number) {
  const sending = useSubmit('post', '/api/surveys/{survey_id}/turnings', () => ({ survey_id: survey() }), {
    said: 'Recorded. Now measure again.',
    undo: (made) => send('delete', '/api/turnings/{turning_id}', { turning_id: made.id }),
  })
  const save = (wish: Wish, done: Done[], note: string) =>
    sending.submit({
      ...wish,
      note,
      done: Object.fromEntries(
        done.map((d) => [
          d.name,
          d.action === 'leave' ? 0 : ((d.action === 'tighten' ? 1 : -1) * d.steps) / d.divisions,
        ]),
      ),
    })
  return { sending, save }
}
