// Readings at one place: while it warms, and how they repeat.
import type { Schemas } from '@/api/client'
import { figure, mm } from '@/shell/format'
import { across, frame, level, SMALL, upright, type Look, type Option, type Says } from './frame'

/** How one place moved while it warmed through: readings, the curve through them, and where it goes. */
export function soak(
  look: Look,
  times: number[],
  heights: number[],
  result: Schemas['SoakOut'] | null,
): Option {
  const { ink, mark, faint, tint } = look.palette
  const begin = times[0] ?? 0
  const minutes = (at: number): number => (at - begin) / 60
  const says: Says = ({ seriesName, index }) =>
    seriesName === 'reading'
      ? `after ${minutes(times[index]!).toFixed(1)} min\n${mm(heights[index]!, true, 3)}`
      : `curve after ${minutes(result!.curve_times[index]!).toFixed(1)} min\n${mm(result!.curve[index]!, true, 3)}`
  const end = result?.asymptote ?? null
  const seen = [
    ...heights,
    ...(result?.curve ?? []),
    ...(end === null ? [] : [end + result!.steady, end - result!.steady]),
  ]
  const [low, high] = [Math.min(...seen), Math.max(...seen)]
  const room = Math.max(0.02, 0.08 * (high - low))
  return {
    ...frame(look, says, [
      {
        type: 'line',
        name: 'curve',
        data: (result?.curve ?? []).map((height, i) => [minutes(result!.curve_times[i]!), height]),
        showSymbol: false,
        lineStyle: { color: mark, width: 2.4 },
        ...(end === null
          ? {}
          : {
              markArea: {
                silent: true,
                itemStyle: { color: tint(0), opacity: 0.9 },
                data: [[{ yAxis: end - result!.steady }, { yAxis: end + result!.steady }]],
              },
              markLine: {
                symbol: 'none',
                silent: true,
                data: [level(look, end, 'where it goes', faint, true)],
              },
            }),
      },
      {
        type: 'scatter',
        name: 'reading',
        data: heights.map((height, i) => [minutes(times[i]!), height]),
        symbolSize: 9,
        itemStyle: { color: ink },
      },
    ]),
    xAxis: {
      type: 'value',
      ...across(look),
      axisLabel: {
        ...across(look).axisLabel,
        formatter: (at: number) => `${figure(at, false, at % 1 ? 1 : 0)} min`,
      },
      min: 0,
      max: ({ max }: { max: number }) => Math.max(1, max),
    },
    yAxis: { ...upright(look, 2, true), min: low - room, max: high + room },
  }
}

/** Touches at one place in their order: mean, what is good, the ones that stand out. */
export function touches(look: Look, heights: number[], result: Schemas['RepeatabilityOut'] | null): Option {
  const { ink, mark, ground, faint, tint } = look.palette
  const mean = result?.mean ?? heights.reduce((a, b) => a + b, 0) / Math.max(1, heights.length)
  const good = result?.good_range ?? 0.02
  const reach = 1.2 * Math.max(0.9 * good, ...heights.map((height) => Math.abs(height - mean)))
  const aside = (i: number): boolean => !!result?.aside.includes(i)
  const says: Says = ({ index }) =>
    `touch ${index + 1}\n${mm(heights[index]!, true, 3)}${aside(index) ? '\nstands out' : ''}`
  return {
    ...frame(look, says, [
      {
        type: 'scatter',
        name: 'touch',
        data: heights.map((height, i) => ({
          value: [i + 1, height],
          itemStyle: aside(i) ? { color: ground, borderColor: mark, borderWidth: 2.4 } : { color: ink },
          label: {
            show: aside(i),
            formatter: 'stands out',
            position: height > mean ? ('top' as const) : ('bottom' as const),
            color: mark,
            fontWeight: 700,
            fontSize: SMALL,
          },
        })),
        symbolSize: 11,
        markArea: {
          silent: true,
          itemStyle: { color: tint(0), opacity: 0.9 },
          label: { color: faint, fontSize: SMALL, position: 'insideBottomRight' },
          data: [
            [{ name: `good: within ${figure(good)} mm`, yAxis: mean - good / 2 }, { yAxis: mean + good / 2 }],
          ],
        },
        markLine: { symbol: 'none', silent: true, data: [level(look, mean, 'mean', ink, false)] },
      },
    ]),
    xAxis: {
      type: 'value',
      ...across(look),
      min: 0.5,
      max: Math.max(10, heights.length) + 0.5,
      minInterval: 1,
      axisLabel: { ...across(look).axisLabel, formatter: (at: number) => (at % 1 ? '' : String(at)) },
    },
    yAxis: { ...upright(look, 3, true), min: mean - reach, max: mean + reach },
  }
}
