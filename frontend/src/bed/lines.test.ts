import { describe, expect, it } from 'vitest'
import { bandsAt, readLines } from './lines'

function sent(): ArrayBuffer {
  const data = new ArrayBuffer(12 + 2 * 24 + 3 * (16 + 4 + 2 + 2 + 1))
  const view = new DataView(data)
  ;[...'FWL1'].forEach((c, i) => view.setUint8(i, c.charCodeAt(0)))
  view.setUint32(4, 3, true)
  view.setUint32(8, 2, true)
  const limits = [0.02, 0.1, 0.15, 0.23, 0.3, 0.02, 0.2, 0.3, 0.4, 0.5]
  limits.forEach((limit, i) => view.setFloat32(12 + 4 * i, limit, true))
  const gaps = 12 + 48 + 48
  ;[0.01, 0.2, 0.2].forEach((gap, i) => view.setFloat32(gaps + 4 * i, gap, true))
  ;[0, 0, 1].forEach((bead, i) => view.setUint16(gaps + 12 + 2 * i, bead, true))
  return data
}

describe('lines of a first layer', () => {
  it('are read as they were sent', () => {
    const lines = readLines(sent())!
    expect(lines.count).toBe(3)
    expect(lines.widths.length).toBe(2)
    expect([...lines.bead]).toEqual([0, 0, 1])
  })
  it('are none when something else came', () => {
    expect(readLines(new ArrayBuffer(40))).toBeNull()
    expect(readLines(new ArrayBuffer(3))).toBeNull()
  })
  it('lie in the band of their own bead', () => {
    const lines = readLines(sent())!
    const bands = new Uint8Array(3)
    bandsAt(lines, 0, bands)
    expect([...bands]).toEqual([0, 3, 1])
    bandsAt(lines, 0.2, bands)
    expect([...bands]).toEqual([3, 5, 3])
  })
})
