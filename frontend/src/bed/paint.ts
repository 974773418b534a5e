// Draws very many lines. Which line each point of the picture belongs to is worked out once for a view; after that a
// new height of the tip only gives the points other colours, so a drag follows the hand with 300,000 lines too, and
// without a graphics processor.
import type { Lines } from './lines'

export interface View {
  /** Corner of the picture at the front left, and mm in a pixel. */
  left: number
  front: number
  unit: number
  /** Pixels. */
  width: number
  height: number
  /** So many points along each side of a pixel are told apart, to smooth the edges of lines. */
  fine: number
}

/** Which line each point shows, counted from 1, row by row from the back; 0 where there is none. */
export interface Points {
  line: Uint32Array
  width: number
  height: number
  fine: number
}

type Colour = [number, number, number]

/** Roles in the order of the server: what is beside the parts stands back towards the ground. */
const STRENGTH = [1, 1, 0.7, 0.5, 0.4, 0.4]
/** Walls are drawn with some ink, so that each part has its outline where all is good too. */
const [WALL, INK] = [0, 0.35]
const BANDS = 6
/** No line is drawn thinner, pixels. */
const THINNEST = 0.9
/** Neighbours stay apart by so much of their width. */
const WIDE = 0.94

/** Lay all lines with their rounded ends into the picture; where two meet, the later lies above. */
export function layOut(lines: Lines, view: View, shown: number): Points {
  const [columns, rows] = [view.width * view.fine, view.height * view.fine]
  const unit = view.unit / view.fine
  const found = new Uint32Array(columns * rows)
  const { ends, widths, bead, role, count } = lines
  const least = (THINNEST * view.fine) / 2
  for (let i = 0; i < count; i++) {
    if (!((shown >> role[i]!) & 1)) continue
    let x = (ends[4 * i]! - view.left) / unit - 0.5
    let y = rows - (ends[4 * i + 1]! - view.front) / unit - 0.5
    let across = (ends[4 * i + 2]! - view.left) / unit - 0.5 - x
    let down = rows - (ends[4 * i + 3]! - view.front) / unit - 0.5 - y
    if (down < 0) [x, y, across, down] = [x + across, y + down, -across, -down]
    const reach = Math.max((WIDE * widths[bead[i]!]!) / unit / 2, least)
    const length = Math.sqrt(across * across + down * down) || 1e-9
    const lift = (reach * across) / length
    const steep = Math.max(down, 1e-9)
    const last = Math.min(Math.floor(y + down + reach), rows - 1)
    for (let row = Math.max(Math.ceil(y - reach), 0); row <= last; row++) {
      // each edge runs beside the line; beyond its ends it is that of a disc
      const below = row - y
      const right = Math.min(Math.max((below + lift) / steep, 0), 1)
      const left = Math.min(Math.max((below - lift) / steep, 0), 1)
      const [offRight, offLeft] = [below - right * down, below - left * down]
      const to = x + right * across + Math.sqrt(Math.max(reach * reach - offRight * offRight, 0))
      const from = x + left * across - Math.sqrt(Math.max(reach * reach - offLeft * offLeft, 0))
      const [begin, end] = [Math.max(Math.ceil(from), 0), Math.min(Math.floor(to), columns - 1)]
      // most stretches are short: a call for each would cost more than it saves
      for (let at = row * columns + begin; at <= row * columns + end; at++) found[at] = i + 1
    }
  }
  return { line: found, width: view.width, height: view.height, fine: view.fine }
}

/** Colour of every line, as it lies in a picture; place 0 is for none. Colours, ground and ink are shares of 1. */
export function coloursOf(
  lines: Lines,
  bands: Uint8Array,
  colours: Colour[],
  ground: Colour,
  ink: Colour,
): Uint32Array {
  const table = new Uint32Array(STRENGTH.length * BANDS)
  const bytes = new Uint8Array(table.buffer)
  for (const [role, strength] of STRENGTH.entries())
    for (const [band, colour] of colours.entries()) {
      const at = 4 * (role * BANDS + band)
      const [toward, share] = role === WALL ? [ink, 1 - INK] : [ground, strength]
      colour.forEach((c, i) => (bytes[at + i] = Math.round(255 * (toward[i]! + (c - toward[i]!) * share))))
      bytes[at + 3] = 255
    }
  const result = new Uint32Array(lines.count + 1)
  for (let i = 0; i < lines.count; i++) result[i + 1] = table[lines.role[i]! * BANDS + bands[i]!]!
  return result
}

/** Give every pixel the mean colour of its points; those without a line let the ground through. */
export function paint(points: Points, colours: Uint32Array, into: Uint32Array): void {
  const { line, width, height, fine } = points
  if (fine === 1) {
    for (let i = 0; i < into.length; i++) into[i] = colours[line[i]!]!
    return
  }
  const columns = width * fine
  const many = fine * fine
  const bytes = new Uint8Array(into.buffer, into.byteOffset)
  for (let row = 0; row < height; row++)
    for (let column = 0; column < width; column++) {
      const at = row * width + column
      const corner = row * fine * columns + column * fine
      const first = colours[line[corner]!]!
      let same = true
      for (let j = 0; j < many && same; j++)
        same = colours[line[corner + ((j / fine) | 0) * columns + (j % fine)]!]! === first
      if (same) {
        into[at] = first
        continue
      }
      let [red, green, blue, covered] = [0, 0, 0, 0]
      for (let down = 0; down < fine; down++)
        for (let along = 0; along < fine; along++) {
          const which = line[corner + down * columns + along]!
          if (!which) continue
          // lowest byte first, as every browser's machine has it
          const colour = colours[which]!
          red += colour & 255
          green += (colour >> 8) & 255
          blue += (colour >> 16) & 255
          covered++
        }
      bytes[4 * at] = red / covered
      bytes[4 * at + 1] = green / covered
      bytes[4 * at + 2] = blue / covered
      bytes[4 * at + 3] = (255 * covered) / many
    }
}
