import { describe, expect, it } from 'vitest'
import { coloursOf, layOut, paint, type View } from './paint'
import type { Lines } from './lines'

const lines = (ends: number[][], role = ends.map(() => 0)): Lines => ({
  count: ends.length,
  limits: new Float32Array([0.02, 0.1, 0.15, 0.23, 0.3]),
  widths: new Float32Array([4 / 0.94]),
  ends: new Float32Array(ends.flat()),
  gap: new Float32Array(ends.length),
  bead: new Uint16Array(ends.length),
  part: new Int16Array(ends.length),
  role: new Uint8Array(role),
})
const view: View = { left: 0, front: 0, unit: 1, width: 20, height: 12, fine: 1 }
const ALL = 63
const BLACK: [number, number, number] = [0, 0, 0]
const tints = [1, 2, 3, 4, 5, 6].map((i): [number, number, number] => [i / 10, 0, 0])

describe('lines laid into a picture', () => {
  it('cover what lies within half their width, and nothing else', () => {
    const given = [
      [3, 3, 15, 9],
      [16, 2, 16, 2],
    ]
    const { line } = layOut(lines(given), view, ALL)
    for (let row = 0; row < 12; row++)
      for (let column = 0; column < 20; column++) {
        const [px, py] = [column + 0.5, 12 - row - 0.5]
        const apart = given.map(([x0, y0, x1, y1]) => {
          const [dx, dy] = [x1! - x0!, y1! - y0!]
          const far = dx * dx + dy * dy
          const share = far ? Math.min(Math.max(((px - x0!) * dx + (py - y0!) * dy) / far, 0), 1) : 0
          return Math.hypot(px - x0! - share * dx, py - y0! - share * dy)
        })
        const wanted = apart[1]! <= 2 ? 2 : apart[0]! <= 2 ? 1 : 0
        if (apart.every((one) => Math.abs(one - 2) > 1e-5)) expect(line[row * 20 + column]).toBe(wanted)
      }
  })
  it('lie the same way whichever end is first, and are left out with their role', () => {
    const there = layOut(lines([[3, 3, 15, 9]]), view, ALL).line
    expect(layOut(lines([[15, 9, 3, 3]]), view, ALL).line).toEqual(there)
    expect(layOut(lines([[3, 3, 15, 9]], [2]), view, ALL & ~4).line.some(Boolean)).toBe(false)
  })
  it('are seen however thin they are', () => {
    const thin = { ...lines([[1, 6.5, 19, 6.5]]), widths: new Float32Array([0.001]) }
    const { line } = layOut(thin, view, ALL)
    for (let column = 1; column < 19; column++) expect(line[5 * 20 + column]).toBe(1)
  })
  it('may lie beside the picture', () => {
    expect(layOut(lines([[-50, -50, 100, -40]]), view, ALL).line.some(Boolean)).toBe(false)
    expect(layOut(lines([[-50, 6, 100, 6]]), view, ALL).line.filter(Boolean).length).toBe(80)
  })
})

describe('colours of a picture', () => {
  it('go by band and role, and stand back towards the ground', () => {
    const each = coloursOf(
      lines(
        [
          [0, 0, 1, 1],
          [0, 0, 1, 1],
        ],
        [0, 4],
      ),
      new Uint8Array([2, 5]),
      tints,
      BLACK,
      BLACK,
    )
    const bytes = new Uint8Array(each.buffer)
    expect([...bytes.subarray(0, 4)]).toEqual([0, 0, 0, 0])
    // a wall, with some ink
    expect([...bytes.subarray(4, 8)]).toEqual([Math.round(255 * 0.3 * 0.65), 0, 0, 255])
    expect([...bytes.subarray(8, 12)]).toEqual([Math.round(255 * 0.6 * 0.4), 0, 0, 255])
  })
  it('are mixed at edges, and let the ground through', () => {
    const one = lines(
      [
        [0, 10, 20, 10],
        [0, 3, 20, 3],
      ],
      [1, 1],
    )
    const points = layOut(one, { ...view, width: 10, height: 6, unit: 2, fine: 2 }, ALL)
    const into = new Uint32Array(60)
    paint(points, coloursOf(one, new Uint8Array([3, 3]), tints, BLACK, BLACK), into)
    const alpha = new Uint8Array(into.buffer).filter((_, i) => i % 4 === 3)
    const column = [0, 1, 2, 3, 4, 5].map((row) => alpha[10 * row + 5])
    // the second line reaches from y 1 to 5: half of the lowest and of the third lowest pixel
    expect(column).toEqual([255, 255, 0, 127, 255, 127])
    const red = new Uint8Array(into.buffer).filter((_, i) => i % 4 === 0)
    expect(red[35]).toBe(Math.round(255 * 0.4))
  })
})
