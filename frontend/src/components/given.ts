// What a field is given beyond its own: its class goes to the whole, everything else to the control inside.
import { computed, useAttrs, type ComputedRef } from 'vue'

export function useGiven(): ComputedRef<{ ofRoot: unknown; rest: Record<string, unknown> }> {
  const attrs = useAttrs()
  return computed(() => {
    const { class: ofRoot, ...rest } = attrs
    return { ofRoot, rest }
  })
}
