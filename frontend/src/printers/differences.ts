// What differs between a set-up as it is typed here and as it was saved elsewhere, in words.
import type { Schemas } from '@/api/client'

const LABELS: Record<string, string> = {
  name: 'Name',
  width: 'Width',
  depth: 'Depth',
  origin: 'Zero point',
  plate_width: 'Plate width',
  plate_depth: 'Plate depth',
  first_layer: 'First layer',
  thread_hand: 'Thread',
  knob_view: 'Knob seen',
  tightening_lowers: 'Tightening lowers the bed',
  divisions: 'Steps per turn',
  repeatability: 'Repeatability',
  note: 'Note',
  screws: 'Screws',
  pads: 'Pads',
  beam_screws: 'Lead screws of the beam',
  beam_lead: 'Their travel',
  beam_carries: 'They carry',
  beam_steps: 'Motor steps a turn',
  beam_raises: 'A lead screw raises',
  plate_bends: 'The plate bends',
  probe_kind: 'Probe',
  probe_dx: 'Probe right of the nozzle',
  probe_dy: 'Probe behind the nozzle',
  closer_is: 'Closer is',
  compensation: 'Compensation',
  offset_kept: 'Offset kept in',
  surfaces: 'Surfaces',
  materials: 'Materials',
  port: 'Line',
  baud: 'Baud',
  dialect: 'Dialect',
  link_name: 'Link',
  most_bed: 'Bed at most',
  most_nozzle: 'Nozzle at most',
  lift: 'Lift',
  longest_heat: 'Heaters off after',
  zero_kept: 'Zero kept by',
  switch_pitch: 'Screw of the Z switch',
  keep_off: 'Places to keep off',
}

const one = (s: Record<string, unknown> | string): string =>
  typeof s === 'string'
    ? s
    : [
        s.name,
        s.x,
        s.y,
        s.pitch,
        s.to_tight,
        s.to_loose,
        s.kind,
        s.thickness,
        s.condition,
        s.prints_since_wash,
        s.coats,
        s.foils,
        s.x_min,
        s.y_min,
        s.x_max,
        s.y_max,
        s.height,
      ]
        .filter((part) => part !== undefined && part !== null)
        .join(' ')
const say = (value: unknown): string =>
  Array.isArray(value) ? value.map(one).join('; ') || '–' : String(value ?? '–')

export type Difference = ReturnType<typeof differ>[number]
export const differ = (mine: Schemas['PrinterIn'], theirs: Schemas['PrinterOut']) =>
  (Object.keys(LABELS) as (keyof Schemas['PrinterIn'] & keyof Schemas['PrinterOut'])[])
    .map((key) => ({ label: LABELS[key]!, mine: say(mine[key]), theirs: say(theirs[key]) }))
    .filter((row) => row.mine !== row.theirs)
