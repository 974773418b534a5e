// To the clipboard, where the browser allows it: over plain HTTP from another device it does not.
import { tell } from '@/shell/undo'

export async function copyText(text: string, otherwise: string): Promise<void> {
  try {
    await navigator.clipboard.writeText(text)
    tell('Copied.')
  } catch {
    tell(`This browser does not let pages copy. ${otherwise}`)
  }
}
