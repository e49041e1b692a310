/** What runs while a shot is computed: the scene, the populations and what they keep from substep to substep. */
import type { Machine } from '@tangle/kernels'
import type { BirthMesh } from '../births/birth.ts'
import type { Colliders } from '../constraints/collider.ts'
import type { Memory } from '../constraints/constraint.ts'
import type { Vector } from '../math/vector.ts'
import type { Birth, Population, Shot } from '../document/types.ts'
import type { Body } from '../scene/body.ts'
import type { Combings } from '../scene/combings.ts'
import type { Masks } from '../scene/masks.ts'
import type { Seen } from '../scene/seen.ts'
import type { CutFaces } from '../scene/solidCut.ts'
import type { PosedBody } from '../scene/posedBody.ts'
import type { PointSource } from '../scene/points.ts'
import type { Columns } from '../state/columns.ts'
import type { OffspringName } from '../state/attribute.ts'
import type { EventLog, ParticleEvent } from '../state/events.ts'
import type { Cover } from './covers.ts'

/** What a birth has done so far; part of a snapshot. */
export interface EmissionState {
  /** Births owed since the start, with their fraction. */
  owed: number
  /** Births done. */
  done: number
}

/** A birth of particles at work. */
export interface Descent {
  rule: Birth
  /** What it keeps with each parent. */
  column: OffspringName
  /** How often descendants bear again; only where a population descends from itself. */
  generations: number
}

/** What a population tells those that descend from it, within a substep. */
export interface Lineage {
  events: ParticleEvent[]
  /** The particles that died, as they were. */
  dead: Columns
}

/** A birth on a mesh at work. */
export interface Emission {
  rule: Birth
  body: Body
  masks: Masks
  /** Faces that the body cuts into the mesh of the rule, at the whole frame before: they go along with the body. */
  cut?: (frame: number) => CutFaces
  /** Half way from the camera to what it looks at. */
  view: Vector
  /** Mesh facts and tools, without what depends on the moment. */
  mesh: Omit<BirthMesh, 'scale' | 'sized' | 'maskAt' | 'cut' | 'liquid'>
  /** Twice the mean radius of its population, metres. */
  diameter: number
  state: EmissionState
  prepared?: { key: string; source: PointSource }
  /** The mask that sweeps, at the vertices, at the end of the substep before. */
  swept?: { frame: number; values: Float32Array }
}

/** One of several parts of the particles, by their ids: each is computed by itself, the same to the bit as in the whole. */
export interface Slice {
  /** From 0 on. */
  index: number
  of: number
}

/** Ids of a slice come in runs of so many, so that slices are quickly put together again. */
const SLICE_RUN = 256
export const isInSlice = (id: number, { index, of }: Slice): boolean =>
  Math.floor(id / SLICE_RUN) % of === index

/** The stretch of a substep in frames, with the frame rate. */
export interface Stretch {
  from: number
  to: number
  rate: number
  first: number
  last: number
  /** The state before the first substep: only bursts at the first frame happen. */
  opening: boolean
  share: number
  slice: Slice | null
}

/** A population at work. */
export interface PopulationState {
  source: Population
  columns: Columns
  /** Ids below this have been given. */
  nextId: number
  seed: number
  /** It is a liquid: of a share of it each particle stands for more. */
  isLiquid: boolean
  emissions: Emission[]
  descents: Descent[]
  /** What happened in this frame. */
  events: EventLog
  /** Null where none descends from it. */
  lineage: Lineage | null
  /** Heap blocks of the influences, by id of the influence. */
  scratch: Map<string, number>
  /** Pointer: an f32 per phase. */
  weights: number
}

export interface World {
  machine: Machine
  shot: Shot
  bodies: Map<string, Body>
  masks: Masks
  combings: Combings
  seen: Seen
  populations: PopulationState[]
  /** Covers on meshes, by the id of the mesh. */
  covers: Map<string, Cover>
  /** Broken meshes as their pieces are now, for grains that meet them, by the id of the mesh. */
  posed: Map<string, PosedBody>
  /** What constraints keep. */
  memory: Memory
  /** Part of the particles that is computed, 0–1. */
  share: number
  /** The slice that is computed; null: all of them. */
  slice: Slice | null
}

/** A substep. */
export interface Moment extends World {
  /** Frames at both ends. */
  from: number
  to: number
  /** First frame and frames per second of the shot. */
  first: number
  rate: number
  /** Seconds. */
  h: number
  /** Numbers substeps from the first frame on. */
  substep: number
  /** What each population runs into in this substep, by its id. */
  colliders: Map<string, Colliders>
  /** Velocities of grains that may hit pieces, before they do, by the id of their population. */
  unhit: Map<string, Float32Array>
}

/** Calls something for every population, in their order. */
export const forEachPopulation =
  (does: (population: PopulationState, moment: Moment) => void) =>
  (moment: Moment): void => {
    for (const population of moment.populations) does(population, moment)
  }

/** A substep of a world, from frame to frame, of so many that the frame has. */
export function momentOf(
  world: World,
  from: number,
  to: number,
  substeps = world.shot.quality.substeps,
): Moment {
  const { frames } = world.shot
  const { first, rate } = frames
  const substep = Math.round((from - first) * substeps)
  const h = 1 / (rate * substeps)
  return { ...world, from, to, first, rate, h, substep, colliders: new Map(), unhit: new Map() }
}
/** A substep as constraints see it. */
export const constraintMoment = (moment: Moment): Moment & { iterations: number } => ({
  ...moment,
  iterations: moment.shot.quality.iterations,
})
/** A moment without length, to look at. */
export const momentAt = (world: World, frame: number): Moment => momentOf(world, frame, frame)
