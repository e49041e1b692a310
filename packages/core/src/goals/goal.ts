import type { Machine } from '@tangle/kernels'
import type { PointSource, Points } from '../scene/points.ts'
import type { Vector } from '../math/vector.ts'
import { PAIRINGS } from '../pairing/index.ts'
import { choice, direction, number, type Parameters, type ValuesOf } from '../document/parameters.ts'
import type { Body } from '../scene/body.ts'

/** The particles that are to be paired. */
export interface Seekers {
  ids: Uint32Array
  /** Pointer: where they are in the world, 3 × f32. */
  positions: number
  /** Texture coordinates of the place where each was born, u, v; null where its mesh has none. */
  uvs(): Float32Array | null
}

/** What a goal sees when places are asked for. */
export interface GoalContext {
  machine: Machine
  seekers: Seekers
  frame: number
  seed: number
  body(mesh: string): Body
  /** The points of a birth on a mesh, at this moment; others for each `batch`. */
  birthPoints(
    mesh: string,
    kind: 'surface' | 'vertices' | 'volume',
    values: Record<string, unknown>,
    batch?: string,
  ): PointSource
  /** Particles of another population now. */
  members(population: string): { number: number; ids: Uint32Array; positions: Float32Array }
}

/** Places to go to, on a mesh or on other particles. */
export interface Places {
  /** Number of what they are on: of a body, or of a population. */
  on: number
  points: Points | { ids: Uint32Array; positions: Float32Array }
  /** Each seeker's own already; else they are paired. */
  own: boolean
  /** The same places are offered to those that are born later: what somebody has is not open any more. */
  lasting?: boolean
}

/** One kind of goal: where the places are. One file per kind. */
export interface GoalKind<P extends Parameters = Parameters> {
  kind: string
  label: string
  glyph: string
  help: string
  source: string
  parameters: P
  /** Whether a particle's place follows from itself, whoever else there is. */
  independent(values: ValuesOf<P>): boolean
  places(values: ValuesOf<P>, context: GoalContext): Places
}

export function goal<P extends Parameters>(kind: GoalKind<P>): GoalKind {
  return kind as unknown as GoalKind
}

/** What every goal has: who goes where, and what counts as there. */
export const COMMON = {
  pairing: choice({
    label: 'Pairing',
    help: 'Who goes where. It is settled as each is born, from where it is then',
    default: 'random',
    options: { ...PAIRINGS },
  }),
  direction: direction({
    label: 'Direction',
    help: 'First among the particles goes to first among the places, along this',
    default: [0, 1, 0] as Vector,
    when: { pairing: 'order' },
  }),
  spare: choice({
    label: 'Too few places',
    help: 'More particles than places: several share one, or some go without. More places: some stay empty',
    default: 'share',
    options: { share: 'several to one place', none: 'some go without' },
  }),
  arrived: number({
    label: 'Arrived within',
    unit: 'm',
    help: 'Nearer than this counts as arrived, in charts and checks',
    default: 0.02,
    range: [0, 1e4],
    usual: [0, 0.5],
    step: 0.005,
  }),
}
