import type { Machine } from '@tangle/kernels'
import type { Parameters, ValuesOf } from '../document/parameters.ts'

/** What a deformation sees: pointers to 3 × f32 per vertex, in the mesh's own space. */
export interface Surface {
  machine: Machine
  count: number
  /** Changed in place. */
  points: number
  rest: number
  /** Unit normals at rest. */
  normals: number
  /** Seconds since the first frame. */
  time: number
  seed: number
  /** Mean size of the place: divide a world length by it. */
  scale: number
  /** A block of the heap that stays this deformation's own. */
  scratch(bytes: number): number
}

/** One kind of motion of a mesh's surface. One file per kind, in deformations/. */
export interface DeformationKind<P extends Parameters = Parameters> {
  kind: string
  label: string
  glyph: string
  help: string
  source: string
  parameters: P
  deform(values: ValuesOf<P>, surface: Surface): void
}
