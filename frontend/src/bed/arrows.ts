import type { Point } from './contours'

/** Ways on the bed that the arrow keys go; up is away from the person. */
export const ARROWS: Record<string, Point> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, 1],
  ArrowDown: [0, -1],
}
