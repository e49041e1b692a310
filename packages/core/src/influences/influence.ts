import type { Machine } from '@tangle/kernels'
import type { Masks } from '../scene/masks.ts'
import type { Body } from '../scene/bodies.ts'
import type { ColumnName, Columns } from '../state/columns.ts'
import type { Collider, CoverRule, LinkRule, SleepRule, TouchRule } from '../constraints/feeds.ts'
import type { PlacePointers } from '../simulation/targets.ts'
import type { Influence } from '../document/types.ts'
import { number, type Parameters, type ValuesOf } from '../document/parameters.ts'

export const FAMILIES = ['forces', 'steering', 'goals', 'constraints', 'contact', 'change'] as const
export type Family = (typeof FAMILIES)[number]

/** What an influence sees of one substep. */
export interface Substep {
  machine: Machine
  columns: Columns
  bodies: Map<string, Body>
  masks: Masks
  /** Seconds since the first frame, at the middle of the substep. */
  time: number
  /** Frames at the start and the end of the substep. */
  from: number
  to: number
  /** Seconds from the moment of the columns' ages to the one in question: a half substep before they move. */
  ahead: number
  /** Length of the substep, seconds. */
  h: number
  /** As the document has it, with its keys. */
  written: Influence
  /** Of this influence. */
  seed: number
  /** Pointer to an f32 per particle: weight(phase) × strength × responses to the strength. */
  amount: number
  /** Pointer to the factor (f32 per particle) that responses make of a parameter; 0 when it has none. */
  factors(parameter: string): number
  /** Pointer to a grid for the nearest `most` neighbours within so many metres; see assembly/neighbours.ts. */
  neighbours(reach: number, most: number): number
  /** Where the places of a goal are, or without one the places on the meshes where they were born. */
  places(goal?: string): Omit<PlacePointers, 'free'>
  /** A block of the heap that stays this influence's own for the run. */
  scratch(bytes: number): number
}

/**
 * One kind of influence: its words, its parameters and what it does. One file per kind; adding one
 * is that file and a line in index.ts.
 */
export interface InfluenceKind<P extends Parameters = Parameters> {
  kind: string
  family: Family
  label: string
  glyph: string
  help: string
  /** Where the rule comes from. */
  source: string
  /** Always has `strength`, which the weights multiply. */
  parameters: P
  /** Columns that it needs. */
  columns?: ColumnName[]
  /** Parameters that are distances to be drawn on the stage, and about what. */
  radii?: { of: string; about: 'particles' | 'goals' | 'point' }[]
  /** It is there to keep particles apart, so that their overlaps are of interest. */
  keepsApart?: boolean
  /** A strength of 0 says something too: it acts then in every phase whose weight is not 0. */
  actsAtZero?: boolean
  /** Adds to acceleration, damping and stiffness, half a substep before particles have moved. */
  act?(values: ValuesOf<P>, substep: Substep): void
  /** Corrects positions and velocities, after they have moved. */
  hold?(values: ValuesOf<P>, substep: Substep): void
  /** What they run into in this substep; see solver/colliders.ts. */
  collider?(values: ValuesOf<P>, substep: Substep): Collider | null
  /** How they touch one another, and those of another population; see solver/bundle.ts. */
  touch?(values: ValuesOf<P>): TouchRule
  /** How they are linked to one another; see solver/links.ts. */
  link?(values: ValuesOf<P>): LinkRule
  /** When they go to sleep; see solver/bundle.ts. */
  sleep?(values: ValuesOf<P>): SleepRule
  /** What becomes of those that lie on a mesh; see solver/gather.ts. */
  cover?(values: ValuesOf<P>): CoverRule
  /** Whom it holds wholly does not give way to links and contacts: its `hold` comes before them. */
  pins?: boolean
  /** Changes what particles are, at the end of the substep. */
  change?(values: ValuesOf<P>, substep: Substep): void
}

/** Ties the parameters to the kernel's arguments, then forgets their types for the list of kinds. */
export function influence<P extends Parameters>(kind: InfluenceKind<P>): InfluenceKind {
  return kind as unknown as InfluenceKind
}

/** The strength of a change: how far it applies. */
export const APPLIED = number({
  label: 'Strength',
  unit: '×',
  help: 'How far it applies: 1 wholly, 0 not at all',
  default: 1,
  range: [0, 1],
  usual: [0, 1],
  step: 0.01,
  keyable: true,
  responsive: true,
})
