// Runs from visit to visit.
import type { Schemas } from '@/api/client'
import { asDate, mm } from '@/shell/format'
import { days, frame, level, upright, type Look, type Option, type Says } from './frame'

/** A scale that begins at nothing, and says so. */
const fromZero = (look: Look) => {
  const scale = upright(look, 2, false)
  return { ...scale, axisLabel: { ...scale.axisLabel, showMinLabel: true } }
}

/** The newest values stand at the end: words about the whole stand at the beginning. */
const startLabel = (line: ReturnType<typeof level>) => ({
  ...line,
  label: { ...line.label, position: 'insideStartTop' as const },
})

/** The variation at each visit: ring as found, dot as left, and up to where it is good. */
export function variation(look: Look, history: Schemas['VisitLine'][], good: number): Option {
  const { ink, mark, ground, faint } = look.palette
  const seen = history.filter((one) => one.last_spread !== null).toReversed()
  const turned = seen.filter((one) => one.first_spread !== one.last_spread)
  const says: Says = ({ seriesName, index }) => {
    const one = (seriesName === 'as found' ? turned : seen)[index]!
    return `${asDate(one.started_at)}\n${mm(one.first_spread!)} as found\n${mm(one.last_spread!)} as left`
  }
  return {
    ...frame(look, says, [
      {
        type: 'line',
        name: 'as left',
        data: seen.map((one) => [one.started_at, one.last_spread]),
        symbol: 'circle',
        symbolSize: 8,
        itemStyle: { color: ink },
        lineStyle: { color: ink, width: 1.6 },
        markLine: {
          symbol: 'none',
          silent: true,
          data: [
            startLabel(level(look, good, `good up to ${mm(good)}`, faint, true)),
            ...turned.map(
              (one) =>
                [
                  {
                    coord: [one.started_at, one.first_spread!],
                    lineStyle: { color: mark, width: 1.4, type: 'solid' },
                  },
                  { coord: [one.started_at, one.last_spread!] },
                ] as [object, object],
            ),
          ],
        },
      },
      {
        type: 'scatter',
        name: 'as found',
        data: turned.map((one) => [one.started_at, one.first_spread]),
        symbolSize: 9,
        itemStyle: { color: ground, borderColor: mark, borderWidth: 2 },
      },
    ]),
    xAxis: days(look),
    yAxis: { ...fromZero(look), min: 0 },
  }
}

/** A run of values with its mean and limits; a diamond is out of the ordinary. */
export function run(
  look: Look,
  values: number[],
  dates: string[],
  chart: Schemas['ChartOut'] | null,
): Option {
  const { ink, mark, ground } = look.palette
  const odd = (i: number): boolean => !!chart && (chart.outside.includes(i) || chart.jumps.includes(i))
  const says: Says = ({ index }) =>
    `${asDate(dates[index]!)}\n${mm(values[index]!)}${odd(index) ? '\nout of the ordinary' : ''}`
  const lines = chart
    ? [
        level(look, chart.upper, 'upper limit', mark, true),
        level(look, chart.mean, 'mean', mark, false),
        ...(chart.lower > 0 ? [level(look, chart.lower, 'lower limit', mark, true)] : []),
      ]
    : []
  return {
    ...frame(look, says, [
      {
        type: 'line',
        name: 'found',
        data: values.map((value, i) => ({
          value: [dates[i]!, value],
          symbol: odd(i) ? 'diamond' : 'circle',
          symbolSize: odd(i) ? 15 : 8,
          itemStyle: odd(i) ? { color: ground, borderColor: mark, borderWidth: 2 } : { color: ink },
        })),
        lineStyle: { color: ink, width: 1.6 },
        markLine: { symbol: 'none', silent: true, data: lines },
      },
    ]),
    xAxis: days(look),
    yAxis: {
      ...fromZero(look),
      min: 0,
      max: ({ max }: { max: number }) => Math.max(max, chart?.upper ?? 0, 0.05) * 1.08,
    },
  }
}
