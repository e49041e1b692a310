import type { Machine } from '@tangle/kernels'
import type { Parameters, ValuesOf } from '../document/parameters.ts'
import type { Body } from './body.ts'
import type { Seen } from './seen.ts'

/** Points at which a mask is asked for, at a moment. */
export interface Places {
  count: number
  /** Pointer to 3 × f32 per point: where it is in the world. */
  positions: number
  /** Frame, fractions allowed. */
  frame: number
  /** Id of the mesh whose vertices these are. */
  verticesOf?: string
  /** Pointers to where particles are anchored: 2 × u32 and 3 × f32 each (see state/attributes.ts). */
  anchors?: Anchors
}

/** Where particles were born on meshes. */
export interface Anchors {
  anchor: number
  at: number
  /** Whether something holds a particle there, however its mesh moves. */
  isHeld(i: number): boolean
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
  /** Writes values that stand at the vertices of a mesh (pointers, f32), as they are at the places. */
  sample(body: Body, places: Places, values: number[], outs: number[]): void
  /** What rays have met so far. */
  seen: Seen
  /** A block that stays this mask's own, filled when it is new. */
  keep(name: string, bytes: number, fill?: (pointer: number) => void): number
}

/** One kind of mask: a value from 0 to 1 at any place and time. One file per kind, in masks/. */
export interface MaskKind<P extends Parameters = Parameters> {
  kind: string
  label: string
  glyph: string
  help: string
  /** What goes wrong with it, and what helps. */
  pitfall: string
  source: string
  parameters: P
  /** Its values stand at the vertices of its mesh, which needs triangles that are fine enough. */
  onSurface?: boolean
  /** The parameters that can be switched off to see what they do, and the value that is off. */
  inputs?: Record<string, unknown>
  /** Writes a value (f32, 0–1) per place. */
  write(values: ValuesOf<P>, places: Places, out: number, context: MaskContext): void
}
