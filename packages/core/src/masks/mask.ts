import type { Machine } from '@tangle/kernels'
import type { Body } from '../scene/bodies.ts'
import { number, reference, vector, type Parameters, type ValuesOf } from '../document/parameters.ts'

/** Points at which a mask is asked for, at a moment. */
export interface Places {
  count: number
  /** Pointer to 3 × f32 per point: where it is in the world. */
  positions: number
  /** Frame, fractions allowed. */
  frame: number
  /** Id of the mesh whose vertices these are. */
  verticesOf?: string
  /** Pointers to where particles are anchored: 2 × u32 and 3 × f32 each (see solver/columns.ts). */
  anchors?: { anchor: number; at: number }
}

/** What a mask sees while it writes its values. */
export interface MaskContext {
  machine: Machine
  /** First frame and frames per second of the shot. */
  first: number
  rate: number
  seed: number
  /** The mask's parameters as written, with their keys. */
  written: Record<string, unknown>
  body(id: string): Body
  /** Writes the values of another mask. */
  write(mask: string, places: Places, out: number): void
  /** Writes values that stand at the vertices of a mesh (f32), as they are at the places. */
  sample(body: Body, places: Places, values: number, out: number): void
  /** A block that stays this mask's own, filled when it is new. */
  keep(name: string, bytes: number, fill?: (pointer: number) => void): number
}

/** One kind of mask: a value from 0 to 1 at any place and time. One file per kind. */
export interface MaskKind<P extends Parameters = Parameters> {
  kind: string
  label: string
  glyph: string
  help: string
  source: string
  parameters: P
  /** The parameters that can be switched off to see what they do, and the value that is off. */
  inputs?: Record<string, unknown>
  /** Writes a value (f32, 0–1) per place. */
  write(values: ValuesOf<P>, places: Places, out: number, context: MaskContext): void
}

export function mask<P extends Parameters>(kind: MaskKind<P>): MaskKind {
  return kind as unknown as MaskKind
}

export const SOFT = number({
  label: 'Soft',
  unit: 'm',
  help: 'Over what distance it falls from 1 to 0',
  default: 0.2,
  range: [0, 1e5],
  usual: [0, 2],
  step: 0.01,
  keyable: true,
})
export const ON_MESH = reference({ label: 'Mesh', help: 'The mesh it lies on', to: 'mesh' })
export const FOLLOW = reference({
  label: 'Follow',
  help: 'Moves along with a mesh; free, it stands in the world',
  to: 'mesh',
  absent: 'free',
})
export const CENTRE = vector({
  label: 'Centre',
  unit: 'm',
  help: 'Its middle',
  default: [0, 1, 0],
  range: [-1e6, 1e6],
  usual: [-10, 10],
  step: 0.01,
  keyable: true,
})
