// Places to measure and what is typed at them: laid by a pattern, walked through, added and taken away.
import { computed, nextTick, ref, useTemplateRef, watch, type Ref } from 'vue'
import { ask } from '@/api/ask'
import { sentence, type Schemas } from '@/api/client'
import { parseNumber } from '@/shell/format'
import type { Draft } from './draft'

export function useTyped(draft: Ref<Draft>, printer: Ref<Schemas['PrinterOut']>) {
  const field = useTemplateRef<HTMLInputElement>('field')
  const trouble = ref('')
  const wrong = ref('')

  async function choose(pattern: string): Promise<void> {
    const kept = draft.value.points.filter((p) => p.text.trim())
    draft.value.pattern = pattern
    let places: Schemas['XY'][] = []
    if (pattern !== 'own') {
      const [columns, rows] =
        pattern === 'screws' ? [2, 2] : (pattern.split('x').map(Number) as [number, number])
      try {
        const answer = await ask('/api/printers/{printer_id}/pattern', {
          printer_id: printer.value.id,
          kind: pattern === 'screws' ? 'screws' : 'grid',
          columns,
          rows,
        })
        places = answer.points
      } catch (e) {
        trouble.value = sentence(e)
        return
      }
      if (draft.value.pattern !== pattern) return // another one was chosen meanwhile
    }
    const fresh = places.filter(({ x, y }) => !kept.some((p) => p.x === x && p.y === y))
    draft.value.points = [...kept, ...fresh.map(({ x, y }) => ({ x, y, text: '' }))]
    draft.value.at = Math.min(kept.length, Math.max(0, draft.value.points.length - 1))
  }
  if (!draft.value.points.length) void choose(draft.value.pattern || '3x3')

  const at = computed(() => draft.value.points[draft.value.at] ?? null)
  function focusField(): void {
    void nextTick(() => {
      field.value?.focus()
      field.value?.select()
    })
  }
  function select(index: number): void {
    draft.value.at = index
    wrong.value = ''
    focusField()
  }
  function next(): void {
    const text = at.value?.text.trim() ?? ''
    if (text && parseNumber(text) === null) {
      wrong.value = `“${text}” is not a number. Type for instance −0.05 or 0,12.`
      return
    }
    wrong.value = ''
    const total = draft.value.points.length
    for (let i = 1; i <= total; i++) {
      const index = (draft.value.at + i) % total
      if (!draft.value.points[index]!.text.trim()) return select(index)
    }
    select(Math.min(draft.value.at + 1, total - 1))
  }
  function flip(): void {
    if (!at.value) return
    const text = at.value.text.trim()
    at.value.text = /^[-−]/.test(text) ? text.slice(1) : `-${text.replace(/^\+/, '')}`
    field.value?.focus()
  }
  function step(by: number): void {
    const total = draft.value.points.length
    if (total) select((draft.value.at + by + total) % total)
  }
  function pick(x: number, y: number): void {
    const { x_min, x_max, y_min, y_max } = printer.value.bed
    if (x < x_min || x > x_max || y < y_min || y > y_max) return
    draft.value.points.push({ x, y, text: '' })
    select(draft.value.points.length - 1)
  }
  function drop(): void {
    draft.value.points.splice(draft.value.at, 1)
    select(Math.max(0, Math.min(draft.value.at, draft.value.points.length - 1)))
  }
  function clear(): void {
    draft.value.points = []
    void choose(draft.value.pattern || '3x3')
  }
  // with a keyboard one types at once; on a phone the keyboard would cover the bed
  if (window.matchMedia('(pointer: fine)').matches) {
    const stop = watch(field, (input) => {
      if (!input) return
      // whoever was quicker and is already at another field or an unfolded list stays there
      if (!document.activeElement?.matches('input:not([type=radio]), textarea')) focusField()
      void nextTick(() => stop())
    })
  }
  watch(
    () => draft.value.points.length,
    (n) => n && draft.value.at >= n && (draft.value.at = n - 1),
  )
  return { trouble, wrong, at, choose, select, next, flip, step, pick, drop, clear }
}
