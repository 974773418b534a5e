// From a grid of heights to bands, lines and places for their labels, in mm.
import type { Schemas } from '@/api/client'
import { contours } from 'd3-contour'

type Relief = Schemas['Relief']
type Bed = Schemas['Bed']
export type Point = [number, number]

export interface Line {
  level: number
  rings: Point[][]
  label: { at: Point; angle: number } | null
}

export interface Band {
  from: number | null
  to: number | null
  polygons: Point[][][]
}

export interface Landscape {
  bands: Band[]
  lines: Line[]
}

/** Draw the relief: x to the right and y upwards, both in mm of the bed. */
export function landscape(relief: Relief, bed: Bed, spots: { x: number; y: number }[] = []): Landscape {
  const { columns, rows } = relief
  const heights = relief.heights_um.map((h) => h / 1000)
  const cellX = (bed.x_max - bed.x_min) / (columns - 1)
  const cellY = (bed.y_max - bed.y_min) / (rows - 1)
  const place = ([gx, gy]: number[]): Point => [
    bed.x_min + (gx! - 0.5) * cellX,
    bed.y_min + (gy! - 0.5) * cellY,
  ]
  const shapes = contours().size([columns, rows]).thresholds(relief.levels)(heights)
  const taken: Point[] = []
  const bands: Band[] = [{ from: null, to: relief.levels[0] ?? null, polygons: [] }]
  const lines: Line[] = []
  shapes.forEach((shape, i) => {
    const polygons = shape.coordinates.map((polygon) => polygon.map((ring) => ring.map(place)))
    bands.push({ from: shape.value, to: relief.levels[i + 1] ?? null, polygons })
    const rings = polygons.flat()
    lines.push({ level: shape.value, rings, label: labelPlace(rings, bed, taken, spots) })
  })
  return { bands, lines }
}

/** A level stretch of the line, inside the bed and away from other labels. */
function labelPlace(
  rings: Point[][],
  bed: Bed,
  taken: Point[],
  spots: { x: number; y: number }[],
): Line['label'] {
  const margin = Math.min(bed.x_max - bed.x_min, bed.y_max - bed.y_min) * 0.07
  const apart = margin * 2.2
  let best: Line['label'] = null
  let bestScore = -Infinity
  for (const ring of rings) {
    for (let i = 2; i < ring.length - 2; i++) {
      const at = ring[i]!
      const [x, y] = at
      if (
        x < bed.x_min + margin ||
        x > bed.x_max - margin ||
        y < bed.y_min + margin ||
        y > bed.y_max - margin
      )
        continue
      const near = Math.min(apart * 2, ...taken.map(([tx, ty]) => Math.hypot(tx - x, ty - y)))
      if (near < apart) continue
      const [ax, ay] = ring[i - 2]!
      const [bx, by] = ring[i + 2]!
      let angle = (Math.atan2(by - ay, bx - ax) * 180) / Math.PI
      if (angle > 90) angle -= 180
      if (angle < -90) angle += 180
      // the figure of a spot height stands just behind its dot
      const crowd = spots.filter(
        (s) => Math.abs(s.x - x) < margin && Math.abs(s.y + margin * 0.4 - y) < margin * 0.9,
      ).length
      const score = near / apart - Math.abs(angle) / 45 + Math.min(ring.length, 40) / 40 - 3 * crowd
      if (score > bestScore) {
        bestScore = score
        best = { at, angle }
      }
    }
  }
  if (best) taken.push(best.at)
  return best
}

/** Read the drawn grid at a place, mm above the datum. */
export function readAt(relief: Relief, bed: Bed, x: number, y: number): number | null {
  const gx = ((x - bed.x_min) / (bed.x_max - bed.x_min)) * (relief.columns - 1)
  const gy = ((y - bed.y_min) / (bed.y_max - bed.y_min)) * (relief.rows - 1)
  if (gx < 0 || gy < 0 || gx > relief.columns - 1 || gy > relief.rows - 1) return null
  const i = Math.min(Math.floor(gx), relief.columns - 2)
  const j = Math.min(Math.floor(gy), relief.rows - 2)
  const h = (a: number, b: number): number => relief.heights_um[b * relief.columns + a]! / 1000
  const [fx, fy] = [gx - i, gy - j]
  return (
    h(i, j) * (1 - fx) * (1 - fy) +
    h(i + 1, j) * fx * (1 - fy) +
    h(i, j + 1) * (1 - fx) * fy +
    h(i + 1, j + 1) * fx * fy
  )
}
