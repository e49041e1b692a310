/**
 * What constraints are to the loop that solves them. A kind of constraint is an entry: influences feed it rules, and in
 * each substep it prepares itself over the solver bodies. The loop (solver.ts) knows none of them by name.
 */
import type { Heap, Machine } from '@tangle/kernels'
import type { Shot } from '../document/types.ts'
import type { Body } from '../scene/body.ts'
import type { Masks } from '../scene/masks.ts'
import type { Columns } from '../state/columns.ts'
import type { EventLog } from '../state/events.ts'
import type { BodyShape } from './bodyShape.ts'
import type { Colliders } from './collider.ts'

/** What an influence feeds to a constraint in a substep: its rule, and how much of it each particle gets. */
export interface Feed<Rule> {
  /** Id of the influence. */
  influence: string
  rule: Rule
  /** Pointer to an f32 per particle: weight × strength × responses. */
  amount: number
  seed: number
  /** Pointer to the factor (f32 per particle) that responses make of a parameter; 0 when it has none. */
  factors(parameter: string): number
  free(): void
}

/** A population as constraints see it. */
export interface ConstrainedPopulation {
  id: string
  columns: Columns
  /** Ids below this have been given. */
  nextId: number
  events: EventLog
  /** Metres between those that a birth laid on a grid; undefined where none does. */
  gridSpacing(): number | undefined
  /** Whether its particles are rigid bodies, and the shape of one. */
  isRigid(): boolean
  /** Whether its particles are of a liquid: those slip along walls but for their viscosity. */
  isLiquid(): boolean
  bodyShape(i: number): BodyShape
  /** Whether its particles are among the solver bodies. */
  coupled(): boolean
  /** Amounts of the influences that hold particles firm: at 1 they do not give way. */
  pins(): Feed<null>[]
  feeds<Rule>(kind: ConstraintKind<Rule>): Feed<Rule>[]
}

/** A substep as constraints see it. */
export interface ConstraintMoment {
  machine: Machine
  bodies: Map<string, Body>
  masks: Masks
  /** Frames at both ends of the substep; its length in seconds, and its number. */
  from: number
  to: number
  h: number
  substep: number
  shot: Shot
  iterations: number
  /** What each population runs into, by its id. */
  colliders: Map<string, Colliders>
}

/** A population among the bodies. */
export interface Member {
  population: ConstrainedPopulation
  /** Its first body, and how many it has. */
  first: number
  count: number
  /** Pointer to where it was going before constraints, 3 × f32. */
  free: number
  /** Pointer to its contact manifolds (contactPlane), set by contacts with meshes; 0: none. */
  planes: number
  /** Pointer to the offsets of its colliders (f64), metres; set with them. */
  offsets: number
  /** Planes are looked for within this share of the radius beyond contact. */
  margin: number
}

/** The particles of populations side by side. Tables are pointers to rows (bodyRow in the kernels' layouts). */
export interface SolverBodies {
  count: number
  members: Member[]
  /** As the substep began, how far each has gone, and velocities. */
  starts: number
  moved: number
  speeds: number
  /** Pointer, f32 per body: its inverse mass while it is awake. */
  awakeMass: number
  /** Pointer, i32 per body: sleepState. */
  sleeps: number
  /** A block of the heap that lasts as long as the constraints of the substep. */
  block(bytes: number): number
  /** Pointer, i32 per body: 1 where it lies on something. */
  marks: number
  /** Pointer, i32 per body: 1 where it has a contact with another. */
  touches: number
  /**
   * Who is linked to whom, set by links. `of` says which links those are; `list` gives pointers: `first` (i32 per body and one more)
   * and `list`; 0: nobody.
   */
  partners: { of: string; list(): { first: number; list: number } }
  /** Contacts between particles (contactStep), set by them. */
  contacts: { steps: number; batches: number }
  /** What touches a sleeper faster than this wakes it, m/s; set by sleep. */
  wakeSpeed: number
}

/** What kinds keep from one substep to the next, by their names: plain data and typed arrays, copied into snapshots. */
export type Memory = Record<string, unknown>

/** A constraint at work in one substep. Hooks run in the order of the kinds; `finish` and `apply` in reverse. */
export interface Constraint {
  /** Goes on from what it bore in the last substep. */
  warmStart?(): void
  /** One sweep of moving bodies, and how many make a round (1 if it does not say); sweeps count from 0. */
  project?(sweep: number): void
  sweeps?: number
  /** Velocities after the rounds; who approaches slower than `restSpeed`, m/s, does not bounce. */
  solveVelocities?(restSpeed: number): void
  /** One round of moving apart what still overlaps, with no velocity from it. */
  depenetrate?(round: number): void
  /** After the rounds, while the bodies are there. */
  finish?(): void
  /** After bodies have been written back to columns. */
  apply?(): void
}

/** Bodies that touch, links, rigid bodies, and liquids; see schema/quality.ts. */
export type Pace = 'touch' | 'links' | 'bodies' | 'liquid'

export interface ConstraintKind<Rule = unknown> {
  name: string
  /** What it does, in one line. */
  does: string
  /** Who is fed to it is among the solver bodies, and so is every population that a rule of it names. */
  couples: boolean
  /** What it asks of the number of substeps; absent: nothing. */
  pace?: Pace
  prepare(bodies: SolverBodies, memory: Memory, moment: ConstraintMoment): Constraint | null
  /** Brings its memory up to date as plain data, for a snapshot. */
  store?(memory: Memory, machine: Machine): void
  /** Gives back what its memory holds of the heap: it becomes plain data again. */
  release?(memory: Memory, heap: Heap): void
  /** Only for the types of its rules. */
  rules?: Rule
}
