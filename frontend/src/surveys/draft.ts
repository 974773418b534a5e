// Half-typed readings live in the browser's own storage until they are accepted.
import { useStorage, type RemovableRef } from '@vueuse/core'
import type { Schemas } from '@/api/client'
import { newKey } from '@/shell/format'

export interface TypedPoint {
  x: number
  y: number
  text: string
}

export interface Draft {
  key: string
  mode: 'typed' | 'pasted'
  pattern: string
  points: TypedPoint[]
  at: number
  text: string
  source: 'pasted' | 'file'
  values: 'height' | 'gap' | null
  unit: 'mm' | 'um' | null
  layout: 'points' | 'grid' | null
  flip_x: boolean
  flip_y: boolean
  bounds: string[] | null
}

export const emptyDraft = (): Draft => ({
  key: newKey(),
  mode: 'typed',
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

export const useDraft = (visit: number): RemovableRef<Draft> =>
  useStorage<Draft>(`finchwort-draft-${visit}`, emptyDraft(), localStorage, { mergeDefaults: true })

export type Preview = Schemas['Preview']
