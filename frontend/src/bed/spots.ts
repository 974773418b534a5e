/** A reading on the map. */
export interface Spot {
  x: number
  y: number
  text: string
  current?: boolean
}
/** What is said beside a screw or pad. */
export interface PostNote {
  name: string
  text: string
}
/** A straightedge on the map. */
export interface Edge {
  from: { x: number; y: number }
  to: { x: number; y: number }
  text: string
}
/** So many readings have their figure beside them; more would lie over each other. */
export const NUMBERED = 64
