import { expect, test } from 'vitest'
import type { Schemas } from '@/api/client'
import { soak, touches } from './readings'
import { run, variation } from './visits'

const look = {
  palette: {
    tint: () => '#eee',
    ink: '#111',
    faint: '#777',
    halo: '#fff',
    plate: '#eee',
    post: '#333',
    ground: '#fff',
    mark: '#900',
  },
  font: 'serif',
}
type Line = { data: { value: number[]; symbol: string }[]; markLine: { data: { yAxis: number }[] } }
const series = (option: object, at = 0): Line => (option as { series: Line[] }).series[at]!
const says = (option: object, seriesName: string, dataIndex: number): string =>
  (option as { tooltip: { formatter: (one: object) => string } }).tooltip.formatter({ seriesName, dataIndex })

const visit = (day: number, first: number | null, last: number | null): Schemas['VisitLine'] =>
  ({
    id: day,
    started_at: `2026-07-0${day}T10:00:00Z`,
    first_spread: first,
    last_spread: last,
  }) as Schemas['VisitLine']

test('visits run from the oldest to the newest, and those without readings are left out', () => {
  const option = variation(look, [visit(3, 0.4, 0.1), visit(2, null, null), visit(1, 0.2, 0.2)], 0.1)
  const left = series(option).data as unknown as [string, number][]
  expect(left.map(([at, value]) => [at.slice(8, 10), value])).toEqual([
    ['01', 0.2],
    ['03', 0.1],
  ])
  // a ring only where turning changed something
  expect(series(option, 1).data).toHaveLength(1)
  expect(says(option, 'as found', 0)).toContain('0.40 mm as found')
})

test('what is out of the ordinary is a diamond, and says so', () => {
  const chart = { mean: 0.2, upper: 0.5, lower: 0, outside: [2], jumps: [] } as unknown as Schemas['ChartOut']
  const dates = ['2026-07-01', '2026-07-02', '2026-07-03'].map((day) => `${day}T10:00:00Z`)
  const option = run(look, [0.1, 0.2, 0.9], dates, chart)
  expect(series(option).data.map((one) => one.symbol)).toEqual(['circle', 'circle', 'diamond'])
  expect(says(option, 'found', 2)).toMatch(/0\.90 mm\nout of the ordinary$/)
  expect(says(option, 'found', 0)).not.toContain('ordinary')
  expect(series(option).markLine.data.map((one) => one.yAxis)).toEqual([0.5, 0.2])
})

test('without limits no line pretends to be one', () => {
  expect(series(run(look, [0.1], ['2026-07-01T10:00:00Z'], null)).markLine.data).toEqual([])
})

test('warming up is told in minutes from the first reading', () => {
  const option = soak(look, [600, 660, 780], [0.1, 0.12, 0.13], null)
  const at = series(option, 1).data as unknown as [number, number][]
  expect(at.map(([minute]) => minute)).toEqual([0, 1, 3])
  expect(says(option, 'reading', 2)).toBe('after 3.0 min\n+0.130 mm')
})

test('a touch that stands out is marked, and all are within the scale', () => {
  const heights = [0, 0.01, -0.01, 0.3]
  const result = { mean: 0, good_range: 0.02, aside: [3] } as unknown as Schemas['RepeatabilityOut']
  const option = touches(look, heights, result)
  expect(says(option, 'touch', 3)).toBe('touch 4\n+0.300 mm\nstands out')
  const { min, max } = (option as unknown as { yAxis: { min: number; max: number } }).yAxis
  for (const height of heights) expect(height > min && height < max).toBe(true)
})
