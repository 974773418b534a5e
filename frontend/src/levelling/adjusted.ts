// What was done to a bed besides turning its knobs: recorded once, with an undo, and then it is measured again.
import { useRouter } from 'vue-router'
import { call } from '@/api/ask'
import { send, useSending } from '@/api/change'
import type { Schemas } from '@/api/client'

export type Adjusted = Schemas['AdjustmentIn']['adjustment']

export function useAdjusted(visit: () => number, survey: () => number) {
  const router = useRouter()
  const sending = useSending()
  async function record(adjustment: Adjusted, said = 'Recorded. Now measure again.'): Promise<void> {
    const made = await sending.run(
      (client_key) =>
        call(
          'post',
          '/api/surveys/{survey_id}/adjustments',
          { survey_id: survey() },
          { client_key, adjustment },
        ),
      said,
      ({ id }) => send('delete', '/api/adjustments/{adjustment_id}', { adjustment_id: id }),
    )
    if (made) await router.push(`/visits/${visit()}/measure`)
  }
  return { record, sending }
}
