// Half-typed readings live in the browser's own storage until they are accepted.
import type { RemovableRef } from '@vueuse/core'
import type { Schemas } from '@/api/client'
import { useDraft as useKept } from '@/shell/draft'
import { newKey, parseNumber } from '@/shell/format'

export interface TypedPoint {
  x: number
  y: number
  text: string
}

export interface HandPlace {
  x: number
  y: number
  value: string
  feel: Schemas['HandPoint']['feel']
  stop: string
  /** Of the place, in words, and the Z at which it is read. */
  name: string
  z: string
}

export interface HandDraft {
  way: Schemas['HandIn']['way'] | 'straightedge'
  thickness: string
  step: number
  plus_is_high: boolean
  points: HandPlace[]
  at: number
}

export interface Draft {
  key: string
  mode: 'typed' | 'hand' | 'pasted' | 'probe'
  hand: HandDraft
  file: { name: string; data: string } | null
  serpentine: boolean
  columns: string
  pattern: string
  points: TypedPoint[]
  at: number
  text: string
  source: 'pasted' | 'file'
  values: 'height' | 'gap' | null
  unit: 'mm' | 'um' | null
  layout: Schemas['Preview']['layout'] | null
  flip_x: boolean
  flip_y: boolean
  bounds: string[] | null
}

/** What counts of a place as a number: of paper its thickness, once it was felt. */
export const valueOf = (hand: HandDraft, place: HandPlace): number | null =>
  hand.way === 'paper' ? (place.feel ? parseNumber(hand.thickness) : null) : parseNumber(place.value)

export const emptyDraft = (): Draft => ({
  key: newKey(),
  mode: 'typed',
  hand: { way: 'paper', thickness: '0.10', step: 0.05, plus_is_high: true, points: [], at: 0 },
  file: null,
  serpentine: false,
  columns: '',
  pattern: '',
  points: [],
  at: 0,
  text: '',
  source: 'pasted',
  values: null,
  unit: null,
  layout: null,
  flip_x: false,
  flip_y: false,
  bounds: null,
})

export const useDraft = (visit: number, mode: Draft['mode'] = 'typed'): RemovableRef<Draft> =>
  useKept<Draft>(`readings-${visit}`, { ...emptyDraft(), mode }, `finchwort-draft-${visit}`).kept

export type Preview = Schemas['Preview']

/** The sides of where readings lie, as they are typed. */
export const SIDES = ['x_min', 'y_min', 'x_max', 'y_max'] as const
