// Numbers, amounts and times as they are shown. Nothing is worked out here.

const MINUS = '−'

export function mm(value: number, signed = false, digits = 2): string {
  return `${figure(value, signed, digits)} mm`
}

export function figure(value: number, signed = false, digits = 2): string {
  const size = Math.abs(value).toFixed(digits)
  if (Number(size) === 0) return size
  return value < 0 ? MINUS + size : signed ? `+${size}` : size
}

/** Read a number as people type it: point or comma, any minus; null when it is none. */
export function parseNumber(text: string): number | null {
  const plain = text.trim().replace(',', '.').replace(MINUS, '-')
  if (!/^[+-]?(\d+\.?\d*|\.\d+)$/.test(plain)) return null
  const value = Number(plain)
  return Number.isFinite(value) ? value : null
}

// by hand: the browser's own formatters are loaded for a tenth of a second on a slow phone, before anything is shown
const DAYS = ['Sun', 'Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat']
const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec']
const two = (n: number): string => String(n).padStart(2, '0')
const dateOf = (at: Date): string => `${at.getDate()} ${MONTHS[at.getMonth()]} ${at.getFullYear()}`

export const asDate = (iso: string): string => dateOf(new Date(iso))
export function asDay(iso: string): string {
  const at = new Date(iso)
  return `${DAYS[at.getDay()]}, ${dateOf(at)}`
}
export function asTime(iso: string): string {
  const at = new Date(iso)
  return `${two(at.getHours())}:${two(at.getMinutes())}`
}

export function ago(iso: string): string {
  const days = Math.floor((Date.now() - new Date(iso).getTime()) / 86_400_000)
  if (days < 1) return 'today'
  if (days === 1) return 'yesterday'
  if (days < 14) return `${days} days ago`
  if (days < 70) return `${Math.round(days / 7)} weeks ago`
  return `${Math.round(days / 30.4)} months ago`
}

export function newKey(): string {
  return crypto.randomUUID()
}

export const count = (n: number, one: string, many = `${one}s`): string => `${n} ${n === 1 ? one : many}`

/** Highest to lowest of a survey; of a bed that paper left open only the least is known. */
export const spreadOf = (survey: { spread: number; verdict: string }): string =>
  `${survey.verdict === 'open' ? 'at least ' : ''}${mm(survey.spread)}`

/** The part of an address that says what is wanted. */
export const query = (wish: object): string =>
  new URLSearchParams(Object.entries(wish).map(([key, value]) => [key, String(value)])).toString()

export const degrees = (value: number | null): string => (value === null ? '–' : `${value} °C`)
