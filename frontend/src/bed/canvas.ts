// The frame that every drawing of a bed shares: where a place of the bed lies in the picture, and how wide a line is.
import { useElementSize, useElementVisibility, useEventListener, whenever } from '@vueuse/core'
import { computed, inject, provide, ref, type ComputedRef, type InjectionKey, type Ref } from 'vue'
import type { Schemas } from '@/api/client'
import { afterPaint } from '@/shell/soon'
import type { Point } from './contours'

type Bed = Schemas['Bed']

/** What the picture shows, mm of the bed. */
export interface Box {
  left: number
  right: number
  front: number
  back: number
  width: number
  height: number
}

/** What a layer needs to draw on the bed. */
export interface Canvas {
  bed: ComputedRef<Bed>
  box: ComputedRef<Box>
  /** How large it is on the screen is known: drawn before that, everything would be drawn twice. */
  ready: ComputedRef<boolean>
  /** mm of the bed in a pixel, so that lines and letters keep their size. */
  unit: ComputedRef<number>
  textSize: ComputedRef<number>
  small: ComputedRef<boolean>
  X: (x: number) => number
  Y: (y: number) => number
  /** A closed ring as the path of a drawing. */
  ring: (points: Point[]) => string
  shape: (polygons: Point[][][]) => string
  /** Where on the bed the pointer is, mm. */
  place: (event: { clientX: number; clientY: number }) => Point
}

const KEY: InjectionKey<Canvas> = Symbol('bed')

/** A figure of a path: hundredths of a millimetre are finer than any screen. */
export const round = (value: number): string => value.toFixed(2)

/** The box around a plate and what lies beside it, with a share of its size as margin. */
export function boxAround(bed: Bed, beside: { x: number; y: number }[], margin: number): Box {
  const { x_min: x0, y_min: y0, x_max: x1, y_max: y1 } = bed.plate
  const xs = [x0, x1, ...beside.map((one) => one.x)]
  const ys = [y0, y1, ...beside.map((one) => one.y)]
  const pad = margin * Math.max(x1 - x0, y1 - y0)
  const [left, right] = [Math.min(...xs) - pad, Math.max(...xs) + pad]
  const [front, back] = [Math.min(...ys) - pad, Math.max(...ys) + pad]
  return { left, right, front, back, width: right - left, height: back - front }
}

/**
 * When a drawing may cost its time: near what is seen, and after the words around it were painted. A verdict is read
 * while the landscape is still being drawn.
 */
function useTurn(svg: Ref<SVGSVGElement | null>): Ref<boolean> {
  const turn = ref(false)
  const near = useElementVisibility(svg, { rootMargin: '300px' })
  whenever(near, () => afterPaint(() => (turn.value = true)), { once: true })
  useEventListener('beforeprint', () => (turn.value = true))
  return turn
}

/** Give the layers inside this drawing their frame. */
export function provideCanvas(
  svg: Ref<SVGSVGElement | null>,
  bed: () => Bed,
  box: ComputedRef<Box>,
  small: () => boolean,
): Canvas {
  const { width, height } = useElementSize(svg)
  const turn = useTurn(svg)
  const ready = computed(() => turn.value && width.value > 0 && height.value > 0)
  const unit = computed(() =>
    ready.value ? Math.max(box.value.width / width.value, box.value.height / height.value) : 0.5,
  )
  const X = (x: number): number => x - box.value.left
  const Y = (y: number): number => box.value.back - y
  const ring = (points: Point[]): string =>
    `M${points.map(([x, y]) => `${round(X(x))},${round(Y(y))}`).join('L')}Z`
  const canvas: Canvas = {
    bed: computed(bed),
    box,
    ready,
    unit,
    textSize: computed(() => unit.value * 12.5),
    small: computed(small),
    X,
    Y,
    ring,
    shape: (polygons) => polygons.flat().map(ring).join(''),
    place: (event) => {
      const matrix = svg.value!.getScreenCTM()!.inverse()
      const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix)
      return [box.value.left + at.x, box.value.back - at.y]
    },
  }
  provide(KEY, canvas)
  return canvas
}

export function useCanvas(): Canvas {
  const canvas = inject(KEY)
  if (!canvas) throw new Error('A layer belongs into a drawing of a bed.')
  return canvas
}
