// What a printer is beyond bed and screws, as text while it is being typed.
import type { Schemas } from '@/api/client'
import type { Limit } from './SpringLimits.vue'

type Printer = Schemas['PrinterOut']
export interface SurfaceText {
  name: string
  kind: string
  thickness: string
  condition: Schemas['SurfaceSetup']['condition']
  prints: string
  coats: string
}
export interface KeepOffText {
  name: string
  left: string
  right: string
  front: string
  back: string
  height: string
}
export interface More {
  pads: { name: string; x: string; y: string; foils: number[] }[]
  keep_off: KeepOffText[]
  beam_screws: number
  beam_lead: string
  beam_left: string
  beam_right: string
  beam_carries: Printer['beam_carries']
  beam_steps: string
  beam_raises: Schemas['PrinterIn']['beam_raises']
  plate_bends: boolean
  limits: Record<string, Limit>
  probe_kind: Printer['probe_kind']
  probe_dx: string
  probe_dy: string
  closer_is: Printer['closer_is']
  compensation: Printer['compensation']
  offset_kept: Printer['offset_kept']
  surfaces: SurfaceText[]
  materials: string[]
  port: string
  baud: string
  dialect: string
  link_name: string
  most_bed: string
  most_nozzle: string
  lift: string
  longest_heat: string
  zero_kept: Printer['zero_kept']
  switch_pitch: string
}

export const emptyMore = (): More => ({
  pads: [],
  keep_off: [],
  beam_screws: 0,
  beam_lead: '8',
  beam_left: '',
  beam_right: '',
  beam_carries: 'unknown',
  beam_steps: '',
  beam_raises: '',
  plate_bends: false,
  limits: {},
  probe_kind: 'none',
  probe_dx: '0',
  probe_dy: '0',
  closer_is: 'negative',
  compensation: 'none',
  offset_kept: ['printer'],
  surfaces: [],
  materials: [],
  port: '',
  baud: '115200',
  dialect: 'open',
  link_name: '',
  most_bed: '110',
  most_nozzle: '260',
  lift: '5',
  longest_heat: '60',
  zero_kept: '',
  switch_pitch: '',
})

const whole = (value: number | null): number | null => (value === null ? null : Math.round(value))
const text = (value: number | null): string => (value === null ? '' : String(value))

export const takeMore = (p: Printer): More => ({
  pads: p.pads.map((pad) => ({ name: pad.name, x: text(pad.x), y: text(pad.y), foils: pad.foils })),
  keep_off: p.keep_off.map((one) => ({
    name: one.name,
    left: text(one.x_min),
    right: text(one.x_max),
    front: text(one.y_min),
    back: text(one.y_max),
    height: text(one.height),
  })),
  beam_screws: p.beam_screws,
  beam_lead: text(p.beam_lead),
  beam_left: text(p.beam_left),
  beam_right: text(p.beam_right),
  beam_carries: p.beam_carries,
  beam_steps: text(p.beam_steps),
  beam_raises: p.beam_raises,
  plate_bends: p.plate_bends,
  limits: Object.fromEntries(
    p.screws.map((s) => [s.name, { tight: text(s.to_tight), loose: text(s.to_loose) }]),
  ),
  probe_kind: p.probe_kind,
  probe_dx: text(p.probe_dx),
  probe_dy: text(p.probe_dy),
  closer_is: p.closer_is,
  compensation: p.compensation,
  offset_kept: [...p.offset_kept],
  surfaces: p.surfaces.map((s) => ({
    name: s.name,
    kind: s.kind,
    thickness: text(s.thickness),
    condition: s.condition,
    prints: text(s.prints_since_wash),
    coats: text(s.coats),
  })),
  materials: [...p.materials],
  port: p.port,
  baud: text(p.baud),
  dialect: p.dialect,
  link_name: p.link_name,
  most_bed: text(p.most_bed),
  most_nozzle: text(p.most_nozzle),
  lift: text(p.lift),
  longest_heat: text(p.longest_heat),
  zero_kept: p.zero_kept,
  switch_pitch: text(p.switch_pitch),
})

export const BESIDE: Printer['probe_kind'][] = ['retracting', 'inductive', 'capacitive', 'switch']
type Read = (field: string, value: string) => number
type Maybe = (field: string, value: string) => number | null

/** Limits of a screw as they go to the server. */
export const limitOf = (
  m: More,
  name: string,
  at: number,
  maybe: Maybe,
): Pick<Schemas['ScrewSetup'], 'to_tight' | 'to_loose'> => ({
  to_tight: maybe(`screws.${at}.to_tight`, m.limits[name]?.tight ?? ''),
  to_loose: maybe(`screws.${at}.to_loose`, m.limits[name]?.loose ?? ''),
})

export const collectMore = (
  m: More,
  number: Read,
  maybe: Maybe,
): Omit<Schemas['PrinterIn'], 'name' | 'width' | 'depth'> => ({
  pads: m.pads.map((pad, i) => ({
    name: pad.name,
    x: number(`pads.${i}.x`, pad.x),
    y: number(`pads.${i}.y`, pad.y),
    foils: pad.foils,
  })),
  keep_off: m.keep_off.map((one, i) => ({
    name: one.name,
    x_min: number(`keep_off.${i}.left`, one.left),
    x_max: number(`keep_off.${i}.right`, one.right),
    y_min: number(`keep_off.${i}.front`, one.front),
    y_max: number(`keep_off.${i}.back`, one.back),
    height: number(`keep_off.${i}.height`, one.height),
  })),
  beam_screws: m.beam_screws,
  beam_lead: number('beam_lead', m.beam_lead),
  beam_left: maybe('beam_left', m.beam_left),
  beam_right: maybe('beam_right', m.beam_right),
  beam_carries: m.beam_carries,
  plate_bends: m.plate_bends,
  beam_steps: whole(maybe('beam_steps', m.beam_steps)),
  beam_raises: m.beam_raises,
  probe_kind: m.probe_kind,
  // only a probe beside the nozzle has a distance from it
  probe_dx: BESIDE.includes(m.probe_kind) ? number('probe_dx', m.probe_dx) : 0,
  probe_dy: BESIDE.includes(m.probe_kind) ? number('probe_dy', m.probe_dy) : 0,
  closer_is: m.closer_is,
  compensation: m.compensation,
  offset_kept: m.offset_kept,
  surfaces: m.surfaces.map((s, i) => ({
    name: s.name,
    kind: s.kind,
    thickness: maybe(`surfaces.${i}.thickness`, s.thickness),
    condition: s.condition,
    prints_since_wash: Math.round(number(`surfaces.${i}.prints_since_wash`, s.prints || '0')),
    coats: Math.round(number(`surfaces.${i}.coats`, s.coats || '0')),
  })),
  materials: m.materials,
  port: m.port.trim(),
  baud: Math.round(number('baud', m.baud)),
  dialect: m.dialect,
  link_name: m.link_name.trim(),
  most_bed: number('most_bed', m.most_bed),
  most_nozzle: number('most_nozzle', m.most_nozzle),
  lift: number('lift', m.lift),
  longest_heat: number('longest_heat', m.longest_heat),
  // a probe that is gone keeps no zero
  zero_kept: m.zero_kept === 'probe' && m.probe_kind === 'none' ? '' : m.zero_kept,
  switch_pitch: m.zero_kept === 'switch' ? maybe('switch_pitch', m.switch_pitch) : null,
})
