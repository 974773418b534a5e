import type { Schemas } from '@/api/client'
import assert from 'node:assert/strict'
import { test } from 'vitest'
import { asPlanned, asTried } from './turned'

const plan = {
  turns: [
    { name: 'front left', action: 'tighten', rounded: 0.625, divisions: 8 },
    { name: 'back left', action: 'loosen', rounded: -0.25, divisions: 8 },
    { name: 'back right', action: 'leave', rounded: 0, divisions: 12 },
  ],
} as Schemas['PlanOut']

test('a plan becomes steps of the hand', () => {
  assert.deepEqual(
    asPlanned(plan).map(({ action, steps }) => [action, steps]),
    [
      ['tighten', 5],
      ['loosen', 2],
      ['leave', 0],
    ],
  )
})

test('what was tried takes its direction from its sign, and what was not touched is left', () => {
  assert.deepEqual(
    asTried(plan, { 'front left': -0.375, 'back right': 1 }).map(({ action, steps }) => [action, steps]),
    [
      ['loosen', 3],
      ['leave', 0],
      ['tighten', 12],
    ],
  )
})
