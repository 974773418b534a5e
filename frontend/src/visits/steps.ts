// What the steps of a visit are called, and what the button says that leads to one.
import type { Schemas } from '@/api/client'

type Step = Schemas['NextOut']['name']
export const NAMES = {
  sound: 'Sound',
  warm: 'Warm up',
  trust: 'Trust',
  measure: 'Measure',
  judge: 'Judge',
  level: 'Level',
  compensate: 'Mesh',
  offset: 'Z offset',
  'first-layer': 'Test print',
  finish: 'Close',
} as const satisfies Record<Step, string>
const GO: Record<Step, string> = {
  sound: 'Walk round the machine',
  warm: 'Let it warm up',
  trust: 'Test the probe',
  measure: 'Measure',
  judge: 'See the map',
  level: 'Show me what to turn',
  compensate: 'Make a mesh',
  offset: 'On to the Z offset',
  'first-layer': 'Print and judge patches',
  finish: 'Close this visit',
}

export function goTo(step: Step, visit: { rounds: unknown[]; printer: { screws: unknown[] } }): string {
  if (step === 'measure' && visit.rounds.length) return 'Measure again'
  if (step === 'level' && !visit.printer.screws.length) return 'Show me how to level it'
  return GO[step]
}
