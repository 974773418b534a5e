import { describe, expect, it } from 'vitest'
import type { Schemas } from '@/api/client'
import { askAgain, lasting } from './running'

const NOW = Date.parse('2026-12-02T10:00:00Z')
const brief = (more: Partial<Schemas['PrintBrief']>) =>
  ({ wanted: null, coming: null, over: false, ends_at: null, ...more }) as Schemas['PrintBrief']
const look = (due: string) => ({ due }) as Schemas['WantedLookOut']

describe('when prints are asked for again', () => {
  it('is seldom where none runs', () => expect(askAgain([], NOW)).toBe(120_000))
  it('is just after the next look is due', () =>
    expect(askAgain([brief({ coming: look('2026-12-02T10:00:07Z') })], NOW)).toBe(8_000))
  it('is just after the end', () =>
    expect(
      askAgain([brief({ coming: look('2026-12-02T10:30:00Z'), ends_at: '2026-12-02T10:00:03Z' })], NOW),
    ).toBe(4_000))
  it('is now and then while a look is waited for', () =>
    expect(askAgain([brief({ wanted: look('2026-12-02T09:59:00Z') })], NOW)).toBe(20_000))
})

describe('how long something lasts', () => {
  it('is told in minutes, and in hours from two on', () =>
    expect([30_000, 5_000_000, 7_200_000, 8_100_000].map(lasting)).toEqual([
      '1 min',
      '83 min',
      '2 h',
      '2 h 15 min',
    ]))
  it('is never less than nothing', () => expect(lasting(-90_000)).toBe('0 min'))
})
