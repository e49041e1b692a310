import type { MeshFacts } from '../geometry/mesh.ts'
import type { ContactMeasures, EnergyMeasures, LinkMeasures } from './contact.ts'
import { vectorAt } from '../document/keys.ts'
import type { Overlaps } from '../state/neighbours.ts'
import type { Goal, ShotMesh } from '../document/types.ts'
import type { CoverMeasures } from '../simulation/covers.ts'
import type { AreaMeasures } from '../scene/clippedMesh.ts'
import { floats, words, type Columns } from '../state/columns.ts'

/** What is measured of a population at a frame. */
export interface PopulationMeasures {
  id: string
  alive: number
  phases: Record<string, number>
  born: number
  died: number
  /** m/s: median, 90 % and highest. */
  speed: { median: number; high: number; most: number }
  /** Particles far outside everything. */
  astray: number
  goals: GoalMeasures[]
  /** Null where there are too many to be counted and nothing is there to keep them apart. */
  overlaps: Overlaps | null
  /** Null where nothing collides, or is linked. */
  contact: ContactMeasures | null
  links: LinkMeasures | null
  energy: EnergyMeasures
}
/** Distance to a goal of those that make for it now, metres: median, 90 % and greatest. */
export interface GoalMeasures {
  id: string
  /** Particles that have a place and are in a phase in which an influence leads there. */
  paired: number
  median: number
  high: number
  most: number
  /** Those nearer than the goal's `arrived`. */
  arrived: number
}
export interface Measures {
  populations: PopulationMeasures[]
  /** Of meshes that a mask eats or turns into particles. */
  meshes: AreaMeasures[]
  covers: CoverMeasures[]
}

interface Placed {
  shotMesh: ShotMesh
  facts: MeshFacts
}

interface Measured {
  id: string
  phases: string[]
  columns: Columns
  born: number
  died: number
  /** −1 for those that have none. */
  goals: { goal: Goal; distances: Float32Array }[]
  overlaps: Overlaps | null
  contact: ContactMeasures | null
  links: LinkMeasures | null
  energy: EnergyMeasures
}

/** At most this many particles are sorted for a percentile; they are taken evenly. */
const SAMPLE = 4096

export function measureFrame(
  populations: Measured[],
  meshes: Iterable<Placed>,
): Pick<Measures, 'populations'> {
  const reach = farReach(meshes)
  return { populations: populations.map((one) => measure(one, reach)) }
}

function measure(
  { id, phases, columns, born, died, goals, ...rest }: Measured,
  reach: number,
): PopulationMeasures {
  const byPhase = new Array<number>(phases.length).fill(0)
  for (const phase of words(columns, 'phase')) byPhase[phase]!++
  const velocity = floats(columns, 'velocity')
  const position = floats(columns, 'position')
  const stride = Math.max(1, Math.ceil(columns.count / SAMPLE))
  const speeds: number[] = []
  let most = 0
  let astray = 0
  for (let i = 0; i < columns.count; i++) {
    const o = i * 3
    const squared = velocity[o]! ** 2 + velocity[o + 1]! ** 2 + velocity[o + 2]! ** 2
    if (squared > most) most = squared
    if (i % stride === 0) speeds.push(squared)
    const far = position[o]! ** 2 + position[o + 1]! ** 2 + position[o + 2]! ** 2
    if (!(far <= reach * reach)) astray++
  }
  speeds.sort((a, b) => a - b)
  const at = (share: number): number => Math.sqrt(speeds[Math.floor(share * (speeds.length - 1))] ?? 0)
  return {
    id,
    alive: columns.count,
    phases: Object.fromEntries(phases.map((phase, i) => [phase, byPhase[i]!])),
    born,
    died,
    speed: { median: at(0.5), high: at(0.9), most: Math.sqrt(most) },
    astray,
    goals: goals.map(({ goal, distances }) => measureGoal(goal, distances)),
    ...rest,
  }
}

function measureGoal({ id, arrived: near }: Goal, distances: Float32Array): GoalMeasures {
  const stride = Math.max(1, Math.ceil(distances.length / SAMPLE))
  const sample: number[] = []
  let [paired, arrived, most] = [0, 0, 0]
  distances.forEach((d, i) => {
    if (d < 0) return
    paired++
    if (d <= near) arrived++
    if (d > most) most = d
    if (i % stride === 0) sample.push(d)
  })
  sample.sort((a, b) => a - b)
  const at = (share: number): number => sample[Math.floor(share * (sample.length - 1))] ?? 0
  return { id, paired, median: at(0.5), high: at(0.9), most, arrived }
}

/** Metres from the origin beyond which a particle counts as astray: twenty times the meshes' reach. */
function farReach(meshes: Iterable<Placed>): number {
  let reach = 5
  for (const { shotMesh, facts } of meshes) {
    const position = vectorAt(shotMesh.place.position, 1)
    const scale = vectorAt(shotMesh.place.scale, 1)
    for (const corner of [facts.low, facts.high]) {
      const local = corner.map((x, axis) => x * scale[axis]!)
      reach = Math.max(reach, Math.hypot(...local) + Math.hypot(...position))
    }
  }
  return 20 * reach
}
