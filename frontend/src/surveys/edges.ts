// Straightedge lines as they are drawn on the bed.
import type { Schemas } from '@/api/client'
import { figure } from '@/shell/format'

export type Way = Schemas['EdgeLineOut']['direction']
export const WAYS: Record<Way, string> = {
  x: 'left to right',
  y: 'front to back',
  up: 'front left to back right',
  down: 'back left to front right',
}

export const drawn = (found: Schemas['EdgesOut'] | undefined) =>
  (found?.lines ?? []).map((one) => ({
    from: { x: one.x[0]!, y: one.y[0]! },
    to: { x: one.x.at(-1)!, y: one.y.at(-1)! },
    text: figure(one.bow, true),
  }))
