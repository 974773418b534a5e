// What all charts share, as ECharts takes it. Values and words only: nothing here touches a page.
import type { ComposeOption } from 'echarts/core'
import type { LineSeriesOption, ScatterSeriesOption } from 'echarts/charts'
import type {
  DataZoomComponentOption,
  GridComponentOption,
  MarkAreaComponentOption,
  MarkLineComponentOption,
  TooltipComponentOption,
} from 'echarts/components'
import type { Palette } from '@/bed/palette'
import { asDate, figure } from '@/shell/format'

export type Option = ComposeOption<
  | LineSeriesOption
  | ScatterSeriesOption
  | GridComponentOption
  | TooltipComponentOption
  | DataZoomComponentOption
  | MarkLineComponentOption
  | MarkAreaComponentOption
>
type Series = NonNullable<Option['series']> extends infer S ? (S extends (infer One)[] ? One : S) : never
export interface Look {
  palette: Palette
  font: string
}
export type Says = (at: { seriesName: string; index: number }) => string

export const SMALL = 13
const DASH = [5, 4]

/** What all charts share: paper and ink, a grid with room for its figures, what a tap says, closer with two fingers. */
export function frame({ palette: p, font }: Look, says: Says, series: Series[]): Option {
  return {
    animation: false,
    textStyle: { fontFamily: font, color: p.ink, fontSize: SMALL },
    grid: { left: 58, right: 16, top: 12, bottom: 30 },
    tooltip: {
      trigger: 'item',
      confine: true,
      renderMode: 'richText',
      backgroundColor: p.ground,
      borderColor: p.faint,
      textStyle: { color: p.ink, fontFamily: font, fontSize: 14 },
      formatter: (one) => {
        const { seriesName, dataIndex } = one as { seriesName: string; dataIndex: number }
        return says({ seriesName, index: dataIndex })
      },
    },
    dataZoom: [
      {
        type: 'inside',
        filterMode: 'none',
        zoomOnMouseWheel: 'ctrl',
        moveOnMouseWheel: false,
        preventDefaultMouseMove: false,
      },
    ],
    series,
  }
}
export const across = ({ palette: p }: Look) => ({
  // at the foot, also where the heights pass nothing
  axisLine: { onZero: false, lineStyle: { color: p.faint } },
  axisTick: { lineStyle: { color: p.faint } },
  axisLabel: { color: p.faint, fontSize: SMALL, hideOverlap: true },
  splitLine: { show: false },
})
export const upright = ({ palette: p }: Look, digits: number, signed: boolean) => ({
  type: 'value' as const,
  // an end that is no step of the scale would stand upon the next figure
  axisLabel: {
    color: p.ink,
    fontSize: SMALL,
    formatter: (v: number) => figure(v, signed, digits),
    showMinLabel: false,
    showMaxLabel: false,
  },
  splitLine: { lineStyle: { color: p.faint, opacity: 0.25 } },
})
export const days = (look: Look) => ({
  type: 'time' as const,
  ...across(look),
  axisLabel: { ...across(look).axisLabel, formatter: (at: number) => asDate(new Date(at).toISOString()) },
})
export const level = (
  { palette: { ground: paper } }: Look,
  at: number,
  says: string,
  color: string,
  dashed: boolean,
) => ({
  yAxis: at,
  lineStyle: { color, width: 1.3, type: dashed ? DASH : ('solid' as const) },
  label: {
    formatter: says,
    color,
    fontSize: SMALL,
    position: 'insideEndTop' as const,
    backgroundColor: paper,
    padding: [0, 4],
  },
})
