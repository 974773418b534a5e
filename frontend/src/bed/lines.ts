// The lines of a first layer as the server sends them: places, gap and bead of each; and the band each lies in.
export interface Lines {
  count: number
  /** Gaps between the bands, five for each bead, mm. */
  limits: Float32Array
  widths: Float32Array
  /** Four figures a line: x and y of its ends, mm. */
  ends: Float32Array
  gap: Float32Array
  bead: Uint16Array
  part: Int16Array
  role: Uint8Array
}

const MAGIC = 'FWL1'

/** Read what the server sent; nothing when it is something else. */
export function readLines(data: ArrayBuffer): Lines | null {
  if (data.byteLength < 12 || new TextDecoder().decode(data.slice(0, 4)) !== MAGIC) return null
  const head = new DataView(data)
  const [count, beads] = [head.getUint32(4, true), head.getUint32(8, true)]
  let at = 12
  const take = (bytes: number): ArrayBuffer => {
    const from = at
    at += bytes
    return data.slice(from, at)
  }
  return {
    count,
    limits: new Float32Array(take(20 * beads)),
    widths: new Float32Array(take(4 * beads)),
    ends: new Float32Array(take(16 * count)),
    gap: new Float32Array(take(4 * count)),
    bead: new Uint16Array(take(2 * count)),
    part: new Int16Array(take(2 * count)),
    role: new Uint8Array(take(count)),
  }
}

/** Into which band each line falls with the tip so much higher (mm): by the limits that came with the lines. */
export function bandsAt(lines: Lines, shift: number, into: Uint8Array): void {
  const { count, limits, gap, bead } = lines
  for (let i = 0; i < count; i++) {
    const here = gap[i]! + shift
    let at = 5 * bead[i]!
    const end = at + 5
    let band = 0
    while (at < end && here > limits[at]!) {
      band++
      at++
    }
    into[i] = band
  }
}
