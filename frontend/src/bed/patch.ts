// A place of a test print: a square, a disc, or where the tip only stops.
export interface Patch {
  number: number
  x: number
  y: number
  /** mm; 0 where the tip only stops. */
  size: number
  round: boolean
  /** On the scale of tints, none while it is not judged. */
  tint?: number
  /** Said to those who do not see it. */
  label?: string
  letter?: string
}
