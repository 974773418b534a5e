// A set-up as it is typed: text in its fields, made of what is stored and made into what is sent.
import type { Schemas } from '@/api/client'
import { parseNumber } from '@/shell/format'
import { collectMore, emptyMore, limitOf, takeMore, type More } from './more'

type Printer = Schemas['PrinterOut']
export interface ScrewText {
  name: string
  x: string
  y: string
  thread: string
  pitch: string
}
/** What carries the plate: so many screws, pads, or neither. */
export type Support = 0 | 3 | 4 | 'pads'

const emptyForm = () => ({
  name: '',
  width: '220',
  depth: '220',
  origin: 'front_left' as Printer['origin'],
  plate_width: '',
  plate_depth: '',
  first_layer: '0.20',
  thread_hand: 'right' as Printer['thread_hand'],
  knob_view: 'behind' as Printer['knob_view'],
  tightening_lowers: true,
  divisions: '8',
  repeatability: '',
  note: '',
  screws: [] as ScrewText[],
})
export type Form = ReturnType<typeof emptyForm>
export interface SetUpText {
  form: Form
  more: More
  screwCount: Support
  thread: string
  /** Somebody said where the screws are: a proposal does not move them. */
  ownPlaces: boolean
  version: number | null
}
export const emptySetUp = (): SetUpText => ({
  form: emptyForm(),
  more: emptyMore(),
  screwCount: 4,
  thread: 'M4',
  ownPlaces: false,
  version: null,
})

export const text = (value: number | null): string => (value === null ? '' : String(value))

export function asText(printer: Printer): SetUpText {
  return {
    version: printer.version,
    form: {
      name: printer.name,
      width: text(printer.width),
      depth: text(printer.depth),
      origin: printer.origin,
      // a plate as large as the printable area stays so when that is changed: no figure nobody typed may refuse it
      plate_width: printer.plate_width === printer.width ? '' : text(printer.plate_width),
      plate_depth: printer.plate_depth === printer.depth ? '' : text(printer.plate_depth),
      first_layer: printer.first_layer.toFixed(2),
      thread_hand: printer.thread_hand,
      knob_view: printer.knob_view,
      tightening_lowers: printer.tightening_lowers,
      divisions: text(printer.divisions),
      repeatability: text(printer.repeatability),
      note: printer.note,
      screws: printer.screws.map((s) => ({
        name: s.name,
        x: text(s.x),
        y: text(s.y),
        thread: s.thread,
        pitch: text(s.pitch),
      })),
    },
    more: takeMore(printer),
    screwCount: printer.pads.length ? 'pads' : (printer.screws.length as Support),
    thread: printer.screws[0]?.thread ?? 'M4',
    ownPlaces: true,
  }
}

/** What is sent, or what is wrong with which field. */
export function asBody({ form, more }: SetUpText): {
  body: Schemas['PrinterIn'] | null
  errors: Record<string, string>
} {
  const errors: Record<string, string> = {}
  const number = (field: string, value: string): number => {
    const parsed = parseNumber(value)
    if (parsed === null) errors[field] = 'This must be a number.'
    return parsed ?? 0
  }
  const maybe = (field: string, value: string): number | null => (value.trim() ? number(field, value) : null)
  if (!form.name.trim()) errors.name = 'A printer needs a name.'
  const body: Schemas['PrinterIn'] = {
    name: form.name,
    width: number('width', form.width),
    depth: number('depth', form.depth),
    origin: form.origin,
    plate_width: maybe('plate_width', form.plate_width),
    plate_depth: maybe('plate_depth', form.plate_depth),
    first_layer: number('first_layer', form.first_layer),
    thread_hand: form.thread_hand,
    knob_view: form.knob_view,
    tightening_lowers: form.tightening_lowers,
    divisions: Math.round(number('divisions', form.divisions)),
    repeatability: maybe('repeatability', form.repeatability),
    note: form.note,
    screws: form.screws.map((s, i) => ({
      name: s.name,
      x: number(`screws.${i}.x`, s.x),
      y: number(`screws.${i}.y`, s.y),
      thread: s.thread,
      pitch: number(`screws.${i}.pitch`, s.pitch),
      ...limitOf(more, s.name, i, maybe),
    })),
    ...collectMore(more, number, maybe),
  }
  return { body: Object.keys(errors).length ? null : body, errors }
}

/** Posts whose places are numbers so far. */
export const placed = (posts: { name: string; x: string; y: string }[]) =>
  posts
    .map((s) => ({ name: s.name, x: parseNumber(s.x), y: parseNumber(s.y) }))
    .filter((s): s is { name: string; x: number; y: number } => s.x !== null && s.y !== null)

/** What is typed so far of the places to keep off, drawn while it is typed. */
export const barred = (more: More) =>
  more.keep_off.flatMap((one) => {
    const [x_min, x_max, y_min, y_max] = [one.left, one.right, one.front, one.back].map(parseNumber)
    return one.name.trim() && x_min != null && x_max != null && y_min != null && y_max != null
      ? [{ name: one.name, x_min, x_max, y_min, y_max, height: parseNumber(one.height) ?? 5 }]
      : []
  })
