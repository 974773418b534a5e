// On every page: which print wants a look now. The title of the tab says so, a sound and a notification.
import { useSessionStorage } from '@vueuse/core'
import { computed, watch } from 'vue'
import { useRoute } from 'vue-router'
import { useRunning } from './running'
import { chime, notify } from './tell'

export function watchPrints(): void {
  const route = useRoute()
  const { data } = useRunning()
  const due = computed(() => data.value?.prints.filter((one) => one.due_sentence) ?? [])
  /** Each look is told of once, and once more when it is late. */
  const told = useSessionStorage<string[]>('finchwort-looks-told', [])
  watch(due, (prints) => {
    for (const one of prints) {
      const name = `${one.id} ${one.wanted ? `${one.wanted.due} ${one.wanted.late}` : 'end'}`
      if (told.value.includes(name)) continue
      told.value = [...told.value.slice(-60), name]
      chime()
      void notify(one.printer, one.due_sentence, `/prints/${one.id}`).catch(() => undefined)
    }
  })
  const here = computed(() => String(route.meta.title ?? 'Finchwort'))
  watch(
    [() => due.value.length, () => due.value[0]?.printer, here, () => route.fullPath],
    ([count, printer]) => {
      const sign = count ? `● ${count > 1 ? `${count} prints` : printer}: look · ` : ''
      document.title = `${sign}${here.value} · Finchwort`
    },
    { flush: 'post' },
  )
}
