// One message at a time at the foot of the page, with an undo where there is one.
import { reactive } from 'vue'
import { sentence } from '@/api/errors'

interface Message {
  text: string
  undo?: () => Promise<unknown>
  key: number
}

export const notice = reactive<{ current: Message | null; busy: boolean }>({ current: null, busy: false })
let timer: number | undefined

// "Undo" means the last thing done.  So a change takes away the undo of the one before it; and one that is overtaken
// (its answer was slow, a newer change has been begun) offers none when it ends at last.
let newest = 0
let overtaken = false
export function beginChange(): number {
  if (notice.current?.undo) dismiss()
  return ++newest
}
export function endChange(number: number): void {
  overtaken = number !== newest
}

export function tell(text: string, undo?: () => Promise<unknown>): void {
  if (undo && overtaken) return
  window.clearTimeout(timer)
  notice.current = { text, undo, key: Date.now() }
  timer = window.setTimeout(() => (notice.current = null), undo ? 20_000 : 6_000)
}

/** Make a change and say so, with its undo; or say why it could not be made. */
export async function attempt(
  change: () => Promise<unknown>,
  said: string,
  undo?: () => Promise<unknown>,
): Promise<void> {
  try {
    await change()
    if (said) tell(said, undo)
  } catch (error) {
    tell(sentence(error))
  }
}

export async function runUndo(): Promise<void> {
  const undo = notice.current?.undo
  if (!undo || notice.busy) return
  notice.busy = true
  try {
    await attempt(undo, 'Undone.')
  } finally {
    notice.busy = false
  }
}

export function dismiss(): void {
  notice.current = null
}
