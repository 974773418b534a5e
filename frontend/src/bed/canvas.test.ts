import type { Schemas } from '@/api/client'
import assert from 'node:assert/strict'
import { test } from 'vitest'
import { boxAround, round } from './canvas'

const bed = { plate: { x_min: -5, y_min: -10, x_max: 205, y_max: 110 } } as Schemas['Bed']

test('the box is the plate with a margin of the longer side', () => {
  assert.deepEqual(boxAround(bed, [], 0.1), {
    left: -26,
    right: 226,
    front: -31,
    back: 131,
    width: 252,
    height: 162,
  })
})

test('what lies beside the plate is in the picture', () => {
  const box = boxAround(
    bed,
    [
      { x: 240, y: 50 },
      { x: 100, y: -40 },
    ],
    0,
  )
  assert.deepEqual([box.left, box.right, box.front, box.back], [-5, 240, -40, 110])
})

test('paths carry hundredths', () => assert.equal(round(1.005001), '1.01'))
