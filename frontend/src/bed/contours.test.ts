import type { Schemas } from '@/api/client'
import assert from 'node:assert/strict'
import { test } from 'vitest'
import { landscape, readAt, type Point } from './contours'

const bed = {
  x_min: 0,
  y_min: 0,
  x_max: 200,
  y_max: 100,
  plate: { x_min: -5, y_min: -5, x_max: 205, y_max: 105 },
  keep_off: [],
} as Schemas['Bed']

/** A grid over the bed of what `height` (mm) says. */
function relief(columns: number, rows: number, levels: number[], height: (x: number, y: number) => number) {
  const heights_um = []
  for (let j = 0; j < rows; j += 1)
    for (let i = 0; i < columns; i += 1)
      heights_um.push(Math.round(1000 * height((200 * i) / (columns - 1), (100 * j) / (rows - 1))))
  return { columns, rows, levels, heights_um } as unknown as Schemas['Relief']
}

/** Twice the area of a ring, by the surveyor's formula; its sign is its direction. */
const area = (ring: Point[]): number =>
  ring.reduce((sum, [x, y], i) => {
    const [nx, ny] = ring[(i + 1) % ring.length]!
    return sum + x * ny - nx * y
  }, 0) / 2

test('a plane is read exactly anywhere, and nowhere beyond the bed', () => {
  const plane = (x: number, y: number): number => 0.001 * x - 0.002 * y
  const grid = relief(11, 6, [0], plane)
  for (const [x, y] of [
    [0, 0],
    [200, 100],
    [33, 77],
    [199.9, 0.1],
  ] as const)
    assert.ok(Math.abs(readAt(grid, bed, x, y)! - plane(x, y)) < 1e-9)
  assert.equal(readAt(grid, bed, -0.1, 50), null)
  assert.equal(readAt(grid, bed, 100, 100.1), null)
})

test('the line of a plane lies where the plane has that height', () => {
  const { lines } = landscape(
    relief(41, 21, [-0.05, 0, 0.05], (x) => 0.001 * (x - 100)),
    bed,
  )
  for (const line of lines) {
    const inside = line.rings.flat().filter(([x, y]) => y > 3 && y < 97 && x > 0 && x < 199)
    assert.ok(inside.length > 10)
    for (const [x] of inside) assert.ok(Math.abs(x - (100 + 1000 * line.level)) < 0.01, String(x))
  }
})

test('a round hill has a round line', () => {
  const hill = relief(201, 101, [0.1], (x, y) => 0.2 - 0.0001 * ((x - 100) ** 2 + (y - 50) ** 2))
  const [ring] = landscape(hill, bed).lines[0]!.rings
  // 0.2 - 0.1 = 0.0001 r², so r² = 1000
  assert.ok(Math.abs(Math.abs(area(ring!)) / (Math.PI * 1000) - 1) < 0.005)
})

test('labels keep apart and away from the edge', () => {
  const { lines } = landscape(
    relief(41, 21, [-0.08, -0.04, 0, 0.04, 0.08], (x) => 0.001 * (x - 100)),
    bed,
  )
  const places = lines.flatMap((line) => (line.label ? [line.label.at] : []))
  assert.ok(places.length >= 3)
  places.forEach(([x, y], i) => {
    assert.ok(x >= 7 && x <= 193 && y >= 7 && y <= 93)
    for (const [ox, oy] of places.slice(i + 1)) assert.ok(Math.hypot(x - ox, y - oy) > 15)
  })
})
