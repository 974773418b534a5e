// What was done to a bed besides turning its knobs: recorded once, with an undo, and then it is measured again.
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { sendKeyed, sentence, type Schemas } from '@/api/client'
import { levelling } from '@/api/levelling'
import { useChange } from '@/api/queries'
import { newKey } from '@/shell/format'
import { tell } from '@/shell/undo'

export type Adjusted = Schemas['AdjustmentIn']['adjustment']

export function useAdjusted(visit: () => number, survey: () => number) {
  const router = useRouter()
  const key = ref(newKey())
  const trouble = ref('')
  const keep = useChange((body: Schemas['AdjustmentIn']) => levelling.adjust(survey(), body))
  const remove = useChange(levelling.deleteAdjustment)
  async function record(adjustment: Adjusted, said = 'Recorded. Now measure again.'): Promise<void> {
    trouble.value = ''
    try {
      const made = await sendKeyed(key, (client_key) => keep.mutateAsync({ client_key, adjustment }))
      key.value = newKey()
      tell(said, () => remove.mutateAsync(made.id))
      await router.push(`/visits/${visit()}/measure`)
    } catch (e) {
      trouble.value = sentence(e)
    }
  }
  return { record, trouble, busy: computed(() => keep.isPending.value) }
}
