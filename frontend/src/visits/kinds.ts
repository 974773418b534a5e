// Kinds of entries in the logbook.
import type { Schemas } from '@/api/client'

type Kind = Schemas['EntryOut']['kind']
export const KINDS: Record<Kind, string> = {
  survey: 'Survey',
  turning: 'Turned',
  verdict: 'Verdict',
  note: 'Note',
  printer: 'Set-up',
  finding: 'Found',
  test: 'Tested',
  job: 'At the line',
  adjustment: 'Adjustment',
  offset: 'Z offset',
  change: 'Changed',
  case: 'Case',
  print: 'Print',
}
