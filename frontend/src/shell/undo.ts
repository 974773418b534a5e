// One message at a time at the foot of the page, with an undo where there is one.
import { reactive } from 'vue'

interface Message {
  text: string
  undo?: () => Promise<unknown>
  key: number
}

export const notice = reactive<{ current: Message | null; busy: boolean }>({ current: null, busy: false })
let timer: number | undefined

export function tell(text: string, undo?: () => Promise<unknown>): void {
  window.clearTimeout(timer)
  notice.current = { text, undo, key: Date.now() }
  timer = window.setTimeout(() => (notice.current = null), undo ? 20_000 : 6_000)
}

export async function runUndo(): Promise<void> {
  const undo = notice.current?.undo
  if (!undo || notice.busy) return
  notice.busy = true
  try {
    await undo()
    tell('Undone.')
  } catch (error) {
    tell(error instanceof Error ? error.message : 'That could not be undone.')
  } finally {
    notice.busy = false
  }
}

export function dismiss(): void {
  notice.current = null
}
