// Colours of the drawings, as plain values so that a saved picture carries them.
import { interpolateRgb, piecewise } from 'd3-interpolate'
import { computed } from 'vue'
import { isDark } from '@/shell/theme'

// from the lowest, over nothing, to the highest, evenly
const LIGHT = ['#1c5a78', '#86b3c4', '#f4eddc', '#e0a56c', '#96380f']
const DARK = ['#79c4e6', '#38708a', '#2b3233', '#94562c', '#f0a265']

export interface Palette {
  tint: (share: number) => string
  ink: string
  faint: string
  halo: string
  plate: string
  post: string
  ground: string
  mark: string
}

export const palette = computed<Palette>(() => {
  const along = piecewise(interpolateRgb, isDark.value ? DARK : LIGHT)
  const scale = (share: number): string => along(Math.min(Math.max((share + 1) / 2, 0), 1))
  return isDark.value
    ? {
        tint: scale,
        ink: '#f1ecdf',
        faint: '#a9ada4',
        halo: '#1a2022',
        plate: '#252d2f',
        post: '#d8d2c2',
        ground: '#1f2628',
        mark: '#ffd27a',
      }
    : {
        tint: scale,
        ink: '#1d2f3a',
        faint: '#5d675f',
        halo: '#fffdf6',
        plate: '#e6dec9',
        post: '#3b4a50',
        ground: '#fbf8f0',
        mark: '#8a2b06',
      }
})

export const FONT = "'Source Sans 3 Variable', 'Source Sans 3', sans-serif"

/** Bands of a first layer on the scale of heights: a tip too near is warm, too far is blue, good is paper. */
export const BAND_TINT = { scrapes: 1, crowded: 0.8, close: 0.42, good: 0, far: -0.45, loose: -1 } as const
