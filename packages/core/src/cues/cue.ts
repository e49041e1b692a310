import type { Machine } from '@tangle/kernels'
import type { AttributeName } from '../state/attributes.ts'
import { number, type Parameters, type ValuesOf } from '../document/parameters.ts'

/** What a cue sees: the particles that are in the phase it leaves, numbered from 0. */
export interface CueContext {
  machine: Machine
  count: number
  /** A column's values of these particles, as copies. */
  column(name: AttributeName): Float32Array | Uint32Array
  /** Values of a mask where they are. */
  mask(id: string): Float32Array
  /** Signed distance to a mesh in metres, negative inside; beyond `reach` only that it is farther, and the side. */
  distance(mesh: string, reach: number): Float32Array
  /** Distance to a goal, or without one to their place on the mesh, metres; −1 for those that have none. */
  toGoal(goal: string | undefined): Float32Array
  /** A number in (0, 1) of each one's own. */
  random(): Float64Array
  /** The frame now, with its part. */
  frame: number
  /** Frames per second. */
  rate: number
}

/** One kind of cue: when a particle goes on to the next phase. One file per kind. */
export interface CueKind<P extends Parameters = Parameters> {
  kind: string
  label: string
  glyph: string
  help: string
  /** What goes wrong with it, and what helps. */
  pitfall: string
  source: string
  parameters: P
  attributes?: AttributeName[]
  /** Whether the k-th particle goes on now. */
  test(values: ValuesOf<P>, context: CueContext): (k: number) => boolean
  /** In words, for the cue line: "after 24 frames". */
  words(values: Record<string, unknown>, names: (id: string) => string): string
}

export function cue<P extends Parameters>(kind: CueKind<P>): CueKind {
  return kind as unknown as CueKind
}

/** For cues that may hold from the start: frames in the phase before they can. */
export const NOT_BEFORE = number({
  label: 'Not before',
  unit: 'frames',
  help: 'Frames in the phase before it can: it may hold from the start',
  default: 6,
  range: [0, 1e6],
  usual: [0, 48],
  step: 1,
})
