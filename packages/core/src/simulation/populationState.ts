/** What runs: populations and their births while a shot is computed. */
import type { BirthMesh, PointSource } from '../births/birth.ts'
import type { Vector } from '../math/vector.ts'
import type { Masks } from '../scene/masks.ts'
import type { Birth, ParticleRules } from '../document/types.ts'
import type { Body } from '../scene/bodies.ts'
import type { Columns } from '../state/columns.ts'

/** What a birth has done so far; part of a snapshot. */
export interface BirthState {
  /** Births owed since the start, with their fraction. */
  owed: number
  /** Births done. */
  done: number
}

export interface BirthRun {
  rule: Birth
  body: Body
  masks: Masks
  /** Half way from the camera to what it looks at. */
  view: Vector
  /** Mesh facts and tools, without what depends on the moment. */
  mesh: Omit<BirthMesh, 'scale' | 'sized' | 'maskAt'>
  state: BirthState
  prepared?: { key: string; source: PointSource }
  /** The mask that sweeps, at the vertices, at the end of the substep before. */
  swept?: { frame: number; values: Float32Array }
}

export interface PopulationRun {
  columns: Columns
  nextId: number
  born: number
  died: number
  births: BirthRun[]
  rules: ParticleRules
  phases: string[]
  seed: number
}

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
}
