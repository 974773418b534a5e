// What the first page needs is asked for before the page is there: its parts and its answers come side by side, not
// one after another.
import type { RouteRecordNormalized } from 'vue-router'
import { askAhead } from '@/api/ask'
import { STEP_PAGES } from '@/visits/pages'
import { router, type StepName } from './router'

/** Steps that show the newest map. */
const MAPPED: StepName[] = ['judge', 'level', 'compensate']

function fetchParts(matched: RouteRecordNormalized[]): void {
  for (const { components } of matched) {
    const part = components?.default
    // not fetched yet, it is a function that fetches it
    if (typeof part === 'function') void (part as () => Promise<unknown>)().catch(() => undefined)
  }
}

export function beginAhead(): void {
  const { name, params, matched } = router.resolve(window.location.pathname)
  fetchParts(matched)
  const id = Number(params.id)
  void askAhead('/api/me', {})
  if (name === 'workshop') {
    void askAhead('/api/workshop', {})
    void askAhead('/api/today', {})
  }
  if (name === 'printer') {
    void askAhead('/api/printers/{printer_id}', { printer_id: id })
    void askAhead('/api/printers/{printer_id}/standing', { printer_id: id })
  }
  if (name === 'case') void askAhead('/api/cases/{case_id}', { case_id: id })
  if (name !== 'visit') return
  const step = (params.step || 'judge') as StepName
  void STEP_PAGES[step]().catch(() => undefined)
  void askAhead('/api/visits/{visit_id}', { visit_id: id }).then((visit) => {
    const survey = visit?.rounds.at(-1)?.survey.id
    if (survey && MAPPED.includes(step)) void askAhead('/api/surveys/{survey_id}/map', { survey_id: survey })
  })
}
