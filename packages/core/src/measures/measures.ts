/** What a frame says of its particles, meshes and covers. */
import type { MeshFacts } from '../geometry/mesh.ts'
import { valueAt, vectorAt } from '../document/keys.ts'
import type { Goal, ShotMesh } from '../document/types.ts'
import { linkedOnes } from '../constraints/linkTopology.ts'
import { linksOf } from '../constraints/links.ts'
import { influenceKind } from '../registry.ts'
import { own as ownResponse } from '../responses/own.ts'
import { measureArea, type AreaMeasures } from '../scene/clippedMesh.ts'
import { measureCover, type CoverMeasures } from '../simulation/covers.ts'
import type { Simulation } from '../simulation/simulation.ts'
import { goalDistances } from '../simulation/targets.ts'
import { momentAt, type PopulationState, type World } from '../simulation/world.ts'
import { words } from '../state/columns.ts'
import type { EventKind } from '../document/parameters.ts'
import { measureOverlaps, type Overlaps } from '../state/neighbours.ts'
import {
  elasticEnergy,
  measureBonds,
  measureContact,
  measureLinks,
  type BondMeasures,
  type ContactMeasures,
  type EnergyMeasures,
  type LinkMeasures,
} from './contact.ts'
import { measureCuts, type CutMeasures } from './cuts.ts'
import { measureLiquid, type LiquidMeasures } from './liquid.ts'
import { measureTemperature, type TemperatureMeasures } from './temperature.ts'
import { measurePieces, spinEnergy, type PieceMeasures } from './pieces.ts'
import { measureSeen, type SeenMeasures } from './seen.ts'
import { measureStrays, type StrayMeasures } from './strays.ts'
import { isRigid } from '../simulation/bodyShapes.ts'
import { measureMotion, percentiles, SAMPLE } from './motion.ts'

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
  /** Takes from before there were bonds have none. */
  bonds?: BondMeasures | null
  pieces?: PieceMeasures | null
  /** Takes from before there were combings have none. */
  strays?: StrayMeasures[]
  /** Takes from before there were liquids have none. */
  liquid?: LiquidMeasures | null
  /** Takes from before there were temperatures have none. */
  temperature?: TemperatureMeasures | null
  energy: EnergyMeasures
  /** How many events of each kind there were in the frame. */
  events: Record<EventKind, number>
  /** Of attributes of its own, by id: median, 10 % and 90 % of numbers, of the length of vectors and the brightness of colours. */
  attributes: Record<string, { low: number; median: number; high: number }>
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
  /** Takes from before there were cuts have none. */
  cuts?: CutMeasures[]
  /** Takes from before rays were remembered have none. */
  seen?: SeenMeasures[]
  /** Milliseconds of each stage; empty where no clock runs. */
  milliseconds: Record<string, number>
}

/** Up to so many particles overlaps are always counted. */
const FEW = 10_000

/** Measures the frame that a simulation is at. */
export function measureSimulation(simulation: Simulation): Measures {
  const { world, frame } = simulation
  const reach = farReach(world.bodies.values())
  return {
    populations: world.populations.map((population) => measurePopulation(world, population, frame, reach)),
    meshes: measureAreas(world, frame),
    covers: [...world.covers.values()].map(measureCover),
    cuts: measureCuts(world, frame),
    seen: measureSeen(world, frame),
    milliseconds: simulation.milliseconds(),
  }
}

function measurePopulation(
  world: World,
  population: PopulationState,
  frame: number,
  reach: number,
): PopulationMeasures {
  const { source, columns, events } = population
  const { phases, speed, astray, kinetic, potential } = measureMotion(world, population, frame, reach)
  return {
    id: source.id,
    alive: columns.count,
    phases: Object.fromEntries(source.phases.map((phase, i) => [phase, phases[i]!])),
    born: events.counts.birth,
    died: events.counts.death,
    speed,
    astray,
    goals: source.goals.map((goal) =>
      measureGoal(
        goal,
        wantedDistances(goal.id, population, goalDistances(world, population, goal.id, frame), frame),
      ),
    ),
    overlaps: overlapsMatter(population)
      ? measureOverlaps(world.machine, columns, linksIn(world, population))
      : null,
    contact: measureContact(population, momentAt(world, frame)),
    links: measureLinks(world, source.id),
    bonds: measureBonds(world, source.id),
    pieces: measurePieces(world, population, frame),
    strays: measureStrays(world, population, frame),
    liquid: measureLiquid(population),
    temperature: measureTemperature(population),
    energy: {
      kinetic,
      potential,
      elastic: elasticEnergy(world, source.id),
      ...(isRigid(source) ? { spin: spinEnergy(world, population) } : {}),
    },
    events: { ...events.counts },
    attributes: measureAttributes(world, population),
  }
}

/** Only of those that make for the goal now; of all where no influence leads there. */
function wantedDistances(
  goal: string,
  { source, columns }: PopulationState,
  distances: Float32Array,
  frame: number,
): Float32Array {
  const leading = source.influences.filter((one) => one.goal === goal)
  if (leading.length === 0) return distances
  const wanted = source.phases.map((phase) =>
    leading.some(
      (one) => !one.muted && (one.weights[phase] ?? 0) !== 0 && valueAt(one.strength, frame) !== 0,
    ),
  )
  const phase = words(columns, 'phase')
  return distances.map((d, i) => (wanted[phase[i]!] ? d : -1))
}

const overlapsMatter = ({ columns, source }: PopulationState): boolean =>
  columns.count <= FEW || source.influences.some((one) => !one.muted && influenceKind(one.kind).keepsApart)

function linksIn({ memory, machine }: World, { source, columns }: PopulationState) {
  const links = Object.values(linksOf(memory, source.id))
  return links.length > 0 ? linkedOnes(machine, columns, links) : null
}

function measureAttributes(world: World, population: PopulationState): PopulationMeasures['attributes'] {
  const { columns, source, seed } = population
  const { count } = columns
  const stride = Math.max(1, Math.ceil(count / SAMPLE))
  const measured = source.attributes.map(({ id }) => {
    const values = new Float32Array(count)
    const context = {
      ...momentAt(world, 0),
      columns,
      ahead: 0,
      rides: [],
      seed,
      targets: () => NO_TARGETS,
      others: [],
      neighbours: () => null,
    }
    ownResponse.write(values, context, { to: '', from: 'own', curve: [], attribute: id }, 0)
    const at = percentiles([...values.filter((_, i) => i % stride === 0)])
    return [id, { low: at(0.1), median: at(0.5), high: at(0.9) }] as const
  })
  return Object.fromEntries(measured)
}
const NO_TARGETS = { on: 0, from: 0, to: 0 }

/** Of meshes that a mask eats, or whose surface it turns into particles. */
function measureAreas({ shot, bodies, masks }: World, frame: number): AreaMeasures[] {
  return shot.meshes.flatMap(({ id, eaten }) => {
    const amounts = shot.populations.flatMap((p) =>
      p.births.filter((b) => b.mesh === id).map((b) => b.amount),
    )
    const swept = amounts.find((amount) => 'swept' in amount)
    const by = eaten ?? swept
    if (!by) return []
    // a mesh that is eaten, or born on, is a body
    return [measureArea(bodies.get(id)!, by.mask, by.level ?? 0.5, masks, frame)]
  })
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
  const at = percentiles(sample)
  return { id, paired, median: at(0.5), high: at(0.9), most, arrived }
}

/** Metres from the origin beyond which a particle counts as astray: twenty times the meshes' reach. */
function farReach(meshes: Iterable<{ shotMesh: ShotMesh; facts: MeshFacts }>): number {
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
