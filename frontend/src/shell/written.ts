// Marks of what was written: which of them this page left itself, and whether there are others.
/** Marks that this very page left: it has asked for what it shows again already. */
const own = new Set<number>()
let seen: [number, number] | null = null

/** Tell that this page stored something: a phone in the hand is felt to have taken the tap. */
export function stored(response: Response): void {
  const mark = Number(response.headers.get('Finchwort-Written'))
  if (!mark) return
  own.add(mark)
  if (window.matchMedia('(pointer: coarse)').matches) navigator.vibrate?.(30)
}

/** Tell whether others wrote since this was asked last. */
export function newsIn(tag: string): boolean {
  const [newest, count] = tag
    .replace(/[^\d-]/g, '')
    .split('-')
    .map(Number) as [number, number]
  const before = seen
  seen = [newest, count]
  if (before === null) return false
  const mine = [...own].filter((mark) => mark > before[0] && mark <= newest).length
  for (const mark of own) if (mark <= newest) own.delete(mark)
  return (newest !== before[0] || count !== before[1]) && count - before[1] !== mine
}
