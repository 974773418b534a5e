/** Do it once the browser has painted: what a tap changes first is seen before what takes its time is built. */
export const afterPaint = (run: () => void): void => {
  requestAnimationFrame(() => setTimeout(run))
}
