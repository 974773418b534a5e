// What was turned, as steps of the hand, ready to be changed and recorded.
import { ref, type Ref } from 'vue'
import { sendKeyed, type Schemas } from '@/api/client'
import { api, useChange } from '@/api/queries'
import { newKey } from '@/shell/format'

export interface Done {
  name: string
  action: 'tighten' | 'loosen' | 'leave'
  steps: number
  divisions: number
}

export const asPlanned = (plan: Schemas['PlanOut']): Done[] =>
  plan.turns.map((t) => ({ name: t.name, action: t.action, steps: Math.round(Math.abs(t.rounded) * t.divisions), divisions: t.divisions }))

export const DONE = { tighten: 'tightened', loosen: 'loosened', leave: 'not turned' } as const

export function useTurned(survey: () => number) {
  const key: Ref<string> = ref(newKey())
  const record = useChange((body: Schemas['TurningIn']) => api.addTurning(survey(), body))
  const save = (hold: string, done: Done[], note: string): Promise<Schemas['TurningOut']> =>
    sendKeyed(key, (client_key) =>
      record.mutateAsync({
        client_key,
        hold,
        note,
        done: Object.fromEntries(
          done.map((d) => [d.name, d.action === 'leave' ? 0 : ((d.action === 'tighten' ? 1 : -1) * d.steps) / d.divisions]),
        ),
      }),
    )
  return { save, busy: record.isPending }
}
