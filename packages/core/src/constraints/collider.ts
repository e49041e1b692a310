import type { Vector } from '../math/vector.ts'
import type { Body } from '../scene/body.ts'
import type { Material } from './materials.ts'

/** What particles run into. */
export interface Collider extends Material {
  /** A mesh, or a plane at both ends of the substep: n·x = level, metres. */
  of: Body | { normal: Vector; from: number; to: number }
  /** On which side they belong: 1 outside, −1 inside, 0 on whichever they are. */
  side: number
  /** Degrees. */
  deflection: number
  /** Metres between the particle's own surface and this one. */
  offset: number
  /** m/s at which who is inside comes out; 0: it is left there. */
  out: number
}

export interface Colliders {
  /** Pointer to the records, and how many. */
  at: number
  count: number
  list: Collider[]
  free(): void
}
