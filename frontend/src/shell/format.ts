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

const day = new Intl.DateTimeFormat('en-GB', {
  weekday: 'short',
  day: 'numeric',
  month: 'short',
  year: 'numeric',
})
const date = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', year: 'numeric' })
const clock = new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit' })

export const asDay = (iso: string): string => day.format(new Date(iso))
export const asDate = (iso: string): string => date.format(new Date(iso))
export const asTime = (iso: string): string => clock.format(new Date(iso))

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
