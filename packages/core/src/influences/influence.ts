/** What an influence is: anything that acts on particles. One file per kind; `drag.ts` is the shortest to read. */
import type { Machine } from '@tangle/kernels'
import type { ConstraintKind } from '../constraints/constraint.ts'
import type { Vector } from '../math/vector.ts'
import type { Body } from '../scene/body.ts'
import type { Combings } from '../scene/combings.ts'
import type { Masks } from '../scene/masks.ts'
import type { TargetPointers } from '../scene/points.ts'
import type { AttributeName } from '../state/attributes.ts'
import type { Columns } from '../state/columns.ts'
import type { Influence } from '../document/types.ts'
import { number, type Parameters, type ValuesOf } from '../document/parameters.ts'

export const FAMILIES = ['forces', 'steering', 'goals', 'constraints', 'contact', 'change'] as const
export type Family = (typeof FAMILIES)[number]

/** A grid for kernels: pointer, and 1 where it is over the particles themselves. */
export interface Neighbours {
  cells: number
  own: number
}

/** What an influence sees of one substep. */
export interface Substep {
  machine: Machine
  columns: Columns
  bodies: Map<string, Body>
  /** A mesh as what collides with it meets it: with the cover that lies on it. */
  solid(mesh: string): Body | undefined
  masks: Masks
  combings: Combings
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
  /**
   * A grid for the nearest `most` neighbours within so many metres, of the population itself or of another one: the
   * arguments of kernels that ask it (assembly/neighbours.ts). Null where there is no such population.
   */
  neighbours(reach: number, most: number, of?: string): Neighbours | null
  /** Widest radius of another population, metres; 0 without one. */
  widestOf(population: string | undefined): number
  /** Where the targets of a goal are, or without one the places on the meshes where they were born. */
  targets(goal?: string): TargetPointers
  /** A block of the heap that stays this influence's own for the run. */
  scratch(bytes: number): number
}

/** One kind of influence: its words, its parameters and what it does. */
export interface InfluenceKind<P extends Parameters = Parameters, Rule = unknown> {
  kind: string
  family: Family
  label: string
  glyph: string
  help: string
  /** What goes wrong with it, and what helps. */
  pitfall: string
  /** Where the rule comes from. */
  source: string
  /** Always has `strength`, which the weights multiply. */
  parameters: P
  /** Attributes that it reads or writes, beside those that every particle has. */
  attributes?: AttributeName[]
  /** Parameters that are distances to be drawn on the stage, and about what. */
  radii?: { of: string; about: 'particles' | 'goals' | 'point' }[]
  /** An endless plane by its parameters `direction` and `height`, to be drawn on the stage. */
  isPlane?: true
  /** It leads particles to the places on the meshes where they were born. */
  leadsHome?: true
  /** It is there to keep particles apart, so that their overlaps are of interest. */
  keepsApart?: boolean
  /** It asks where other particles are, of its own population or of another: those have to be computed together. */
  interacts?: true
  /** Phases in which it acts once it is added, unless one is chosen; most act in all. */
  startsIn?: 'first'
  /** A strength of 0 says something too: it acts then in every phase whose weight is not 0. */
  actsAtZero?: boolean
  /** Its strength says where particles are rather than how fast they change: it is read at the end of the substep. */
  readsAtEnd?: boolean
  /** Adds to acceleration, damping and stiffness, half a substep before particles have moved. */
  applyForces?(values: ValuesOf<P>, substep: Substep): void
  /** Corrects positions and velocities, after they have moved. */
  projectPositions?(values: ValuesOf<P>, substep: Substep): void
  /** Whom it holds wholly does not give way to constraints: its `projectPositions` comes before them. */
  pins?: boolean
  /** It is of the world around particles, whatever they do: a new phase has it as the one before. */
  surrounds?: boolean
  /** The constraint that it feeds, and its rule now; null where it feeds none. */
  constraint?: ConstraintKind<Rule>
  rule?(values: ValuesOf<P>, substep: Substep): Rule | null
  /** How heat flows among those that it gives a temperature; see simulation/heat.ts. */
  heat?(values: ValuesOf<P>): HeatRule
  /** What becomes of those that lie on a mesh; see simulation/coverAccumulation.ts. */
  cover?(values: ValuesOf<P>): CoverRule
  /** Changes what particles are, at the end of the substep. */
  updateAttributes?(values: ValuesOf<P>, substep: Substep): void
  /** The mesh that particles are kept outside of. */
  keepsOutside?(written: Influence): string | undefined
  /**
   * The force at strength 1 where it is the same for every particle: forces that are even and drawn by no response are
   * summed once, before the pass over particles. Null where it is not even now.
   */
  evenForce?(values: ValuesOf<P>): EvenForce | null
}

/** dv/dt = acceleration − damping·v, in m/s² and 1/s. */
export interface EvenForce {
  acceleration: Vector
  damping: number
}

/** Of what a population is that has a temperature. */
export interface HeatRule {
  /** °C of those that are born, and of what is around those that lie bare. */
  born: number
  around: number
  /** W/(m²·K), W/(m·K), J/(kg·K) */
  loss: number
  conductivity: number
  capacity: number
  /** How many times as fast as it is. */
  pace: number
}

/** How a mesh is covered by the particles of a population. */
export interface CoverRule {
  mesh: string
  /** Metres of cover that stay as particles. */
  depth: number
  /** Volume of cover from a volume of particles. */
  gathers: number
  /** Angle of repose, degrees. */
  repose: number
  /** m/s at which it melts, and the mask that says where. */
  melt: number
  meltMask?: string
}

/** Ties the parameters and the rule to what reads them, then forgets their types for the list of kinds. */
export function influence<P extends Parameters, Rule>(kind: InfluenceKind<P, Rule>): InfluenceKind {
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
