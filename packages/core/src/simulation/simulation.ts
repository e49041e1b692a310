/** A shot made ready to run, frame by frame. What happens in a frame is the list in stages.ts. */
import { Interrupted, scopeOf, type Machine } from '@tangle/kernels'
import type { Mesh } from '../geometry/mesh.ts'
import { seedFrom } from '../math/random.ts'
import { add, scale } from '../math/vector.ts'
import { meanOf } from '../document/parameters.ts'
import type { Population, Shot } from '../document/types.ts'
import { clippedMesh, type MeshFrame } from '../scene/clippedMesh.ts'
import { seenIn, type SeenPlaces } from '../scene/seen.ts'
import { cutFaces, cutMesh } from '../scene/solidCut.ts'
import { birthKind, CONSTRAINTS, influenceKind } from '../registry.ts'
import { meshesInUse } from '../schema/references.ts'
import { withQuality } from '../schema/quality.ts'
import { attributesOf } from '../schema/requiredAttributes.ts'
import type { AttributeName } from '../state/attributes.ts'
import { createColumns, floats, reserve, stateNames, view, type Columns } from '../state/columns.ts'
import { createEventLog, type EventTable } from '../state/events.ts'
import { coverMesh, createCovers } from './covers.ts'
import { createPosedPieces, posePieces } from './posedPieces.ts'
import { isLiquid } from './influencePass.ts'
import { createScene, type Scene } from './scene.ts'
import { skinsOf } from './skins.ts'
import { substepsAt } from './adaptiveSteps.ts'
import { checkFinite } from './finite.ts'
import { descentsOf } from './offspring.ts'
import { fingerprintOf, restoreSnapshot, takeSnapshot, type Snapshot } from './snapshot.ts'
import { isAtRest, STAGES } from './stages.ts'
import { sampleGoal, type GoalSample } from './targets.ts'
import { momentOf, type Lineage, type Moment, type PopulationState, type Slice, type World } from './world.ts'

/** The particles of one population at a frame. The arrays are views: copy what must last. */
export interface PopulationFrame {
  id: string
  count: number
  columns: Partial<Record<AttributeName, Float32Array | Uint32Array>>
}

/** What happened in a frame. */
export interface PopulationEvents extends EventTable {
  id: string
}

export interface Simulation {
  readonly shot: Shot
  /** The frame that the state belongs to. */
  readonly frame: number
  /** Computes the next frame. Returns false when `stop` or the machine said to leave off; the state is then lost. */
  advance(): boolean
  populations(): PopulationFrame[]
  /** What happened to particles in this frame, population by population. */
  events(): PopulationEvents[]
  /** Milliseconds that each stage took in this frame; empty without a clock. */
  milliseconds(): Record<string, number>
  /** What is left of the meshes that are eaten, and the covers on meshes, in the world. */
  meshes(): MeshFrame[]
  /** The covers alone. */
  covers(): MeshFrame[]
  /** The skins of liquids that have one. */
  skins(): MeshFrame[]
  /** Where rays have met meshes in this frame, for the masks that ask for it. */
  seen(): SeenPlaces[]
  /** Where about `most` particles of each population want to go, goal by goal. */
  goals(most: number): GoalSample[][]
  snapshot(): Snapshot
  restore(snapshot: Snapshot): void
  /** 64-bit hash of all columns, 16 hexadecimal digits. */
  fingerprint(): string
  dispose(): void
  /** What is measured. */
  readonly world: World
}

export interface SimulationOptions {
  /** Part of the particles to compute, 0–1; the same ids as in the whole. */
  share?: number
  /** Only these of them; for shots whose particles don't act on one another (schema/independence.ts). */
  slice?: Slice | null
  /** Goes on from here: nothing has to settle first. */
  from?: Snapshot
  /** Asked between substeps; true leaves off. */
  stop?: () => boolean
  /** Milliseconds from any moment on, to tell how long stages take. */
  clock?: () => number
}

/**
 * A shot made ready to run. `meshes` are by `sourceKey` ("sha256:…" for stored ones), welded. The state is that of the
 * first frame, with its bursts.
 */
export function createSimulation(
  { heap, ...kernels }: Machine,
  written: Shot,
  meshes: Map<string, Mesh>,
  { share = 1, slice = null, stop = () => false, from, clock }: SimulationOptions = {},
): Simulation {
  const shot = withQuality(written)
  const { first } = shot.frames
  // what it takes of the heap it gives back, wherever it was told to leave off
  const scope = scopeOf(heap)
  const machine: Machine = { ...kernels, heap: scope }
  const scene = createScene(machine, shot, meshes, meshesInUse(shot))
  const world = createWorld(machine, shot, scene, { share, slice })
  const took: Record<string, number> = {}
  let frame = first

  const run = (stages: typeof STAGES, moment: Moment): void => runStages(stages, moment, took, clock)
  const everySubstep = STAGES.filter(({ perFrame }) => !perFrame)
  const onceAFrame = STAGES.filter(({ perFrame }) => perFrame)
  const opening = STAGES.filter(({ opens }) => opens)
  function begin(): void {
    if (from) return simulation.restore(from)
    run(opening, momentOf(world, first, first))
    run(
      STAGES.filter(({ shows }) => shows),
      { ...momentOf(world, first, first), h: 0 },
    )
    const settling = everySubstep.filter(({ settledOnly }) => !settledOnly)
    preroll(world, (substeps) => run(settling, momentOf(world, first, first, substeps)), stop)
  }
  function advance(): boolean {
    for (const { events } of world.populations) events.clear()
    for (const name of Object.keys(took)) delete took[name]
    const substeps = substepsAt(world, frame)
    for (let k = 0; k < substeps; k++) {
      if (stop()) return false
      run(everySubstep, momentOf(world, frame + k / substeps, frame + (k + 1) / substeps, substeps))
    }
    run(onceAFrame, momentOf(world, frame, frame + 1, substeps))
    checkFinite(world, frame + 1)
    frame++
    return true
  }

  const simulation: Simulation = {
    shot,
    world,
    get frame() {
      return frame
    },
    advance() {
      try {
        return advance()
      } catch (error) {
        if (error instanceof Interrupted) return false
        throw error
      }
    },
    populations: () => world.populations.map(frameOf),
    events: () => world.populations.map(({ source, events }) => ({ id: source.id, ...events.table() })),
    milliseconds: () => ({ ...took }),
    meshes: () => meshesOf(world, frame),
    covers: () => coversOf(world, frame),
    skins: () => skinsOf(world),
    seen: () => seenIn(world.seen.tables(), frame),
    goals: (most) => world.populations.map((population) => goalsOf(world, population, frame, most)),
    snapshot: () => takeSnapshot(frame, world),
    restore(snapshot) {
      frame = snapshot.frame
      restoreSnapshot(snapshot, world)
      posePieces(world, frame)
    },
    fingerprint: () => fingerprintOf(machine, world.populations, world.covers),
    dispose() {
      for (const kind of CONSTRAINTS) kind.release?.(world.memory, scope)
      scope.release()
    },
  }
  try {
    begin()
  } catch (error) {
    scope.release()
    throw error
  }
  return simulation
}

/** Where some particles want to go, goal by goal, and home where an influence leads there. */
function goalsOf(world: World, population: PopulationState, frame: number, most: number): GoalSample[] {
  const { goals, influences } = population.source
  const goHome = influences.some(({ kind, muted }) => !muted && influenceKind(kind).leadsHome)
  const wanted = [...goals, ...(goHome ? [undefined] : [])]
  return wanted.map((goal) => sampleGoal(world, population, goal, frame, most))
}

/** What is left of the meshes that are eaten. */
const eatenMeshes = ({ shot, bodies, masks }: World, frame: number): MeshFrame[] =>
  shot.meshes.flatMap(({ id, eaten }) => (eaten ? [clippedMesh(bodies.get(id)!, eaten, masks, frame)] : []))

/** What others have left of the meshes that they cut. */
const cutMeshes = ({ shot, bodies }: World, frame: number): MeshFrame[] =>
  shot.meshes.flatMap(({ id, cut }) =>
    cut ? [cutMesh(bodies.get(id)!, bodies.get(cut.by)!, cut, frame)] : [],
  )

const coversOf = ({ covers }: World, frame: number): MeshFrame[] =>
  [...covers.values()].map((cover) => coverMesh(cover, frame))

const meshesOf = (world: World, frame: number): MeshFrame[] => [
  ...eatenMeshes(world, frame),
  ...cutMeshes(world, frame),
  ...coversOf(world, frame),
  ...skinsOf(world),
]

const frameOf = ({ source, columns }: PopulationState): PopulationFrame => ({
  id: source.id,
  count: columns.count,
  columns: Object.fromEntries(stateNames(columns).map((name) => [name, view(columns, name)])),
})

function createWorld(
  machine: Machine,
  shot: Shot,
  { bodies, masks, combings, seen }: Scene,
  part: Pick<World, 'share' | 'slice'>,
): World {
  const populations = shot.populations.map((source) =>
    createPopulation(machine, shot, source, { bodies, masks }, part.share),
  )
  const covers = createCovers(machine, shot, bodies)
  const posed = createPosedPieces(machine, shot, bodies)
  return { machine, shot, bodies, masks, combings, seen, populations, covers, posed, memory: {}, ...part }
}

function createPopulation(
  machine: Machine,
  shot: Shot,
  written: Population,
  { bodies, masks }: Pick<Scene, 'bodies' | 'masks'>,
  share: number,
): PopulationState {
  const liquid = isLiquid(written)
  const source = liquid ? coarser(written, share) : written
  const seed = seedFrom(shot.seed, source.id)
  const { builtIn, own, offspring } = attributesOf(source, shot.populations)
  const make = (): Columns => createColumns(machine.heap, builtIn, [...own, ...offspring])
  const columns = make()
  reserve(columns, 1)
  const lineage: Lineage | null = offspring.length > 0 ? { events: [], dead: make() } : null
  const { position, target } = shot.stage.camera
  const middle = scale(add(position, target), 0.5)
  return {
    source,
    columns,
    nextId: 0,
    seed,
    isLiquid: liquid,
    emissions: source.births.flatMap((rule) => {
      const { prepare, onCut } = birthKind(rule.kind)
      if (!prepare) return []
      // the schema sees to it that its mesh is there
      const named = bodies.get(rule.mesh!)!
      const { cut } = named.shotMesh
      if (onCut && !cut) return []
      const body = onCut ? bodies.get(cut!.by)! : named
      const { mesh, facts, normals, restTree } = body
      const diameter = 2 * meanOf(source.particle.radius)
      const tools = { machine, mesh, facts, tree: restTree, normals, seed }
      const faces = onCut && { cut: (frame: number) => cutFaces(named, body, cut!, Math.floor(frame)) }
      return [
        { rule, body, masks, view: middle, mesh: tools, diameter, state: { owed: 0, done: 0 }, ...faces },
      ]
    }),
    descents: descentsOf(source, shot.populations),
    events: createEventLog(lineage ? (event) => void lineage.events.push(event) : undefined),
    lineage,
    scratch: new Map(),
    weights: machine.heap.allocate(4 * source.phases.length),
  }
}

/** Of a share of a liquid each particle stands for more of it: one that is thinned out is another liquid. */
function coarser(source: Population, share: number): Population {
  const wider = share ** (-1 / 3)
  const { radius } = source.particle
  const wide = typeof radius === 'number' ? radius * wider : { ...radius, mean: radius.mean * wider }
  return { ...source, particle: { ...source.particle, radius: wide } }
}

function runStages(
  stages: typeof STAGES,
  moment: Moment,
  took: Record<string, number>,
  clock: (() => number) | undefined,
): void {
  let from = clock?.() ?? 0
  for (const stage of stages) {
    stage.run(moment)
    if (!clock) continue
    const now = clock()
    took[stage.name] = (took[stage.name] ?? 0) + now - from
    from = now
  }
}

/**
 * Runs ahead with the meshes as they stand at the first frame, without births, cues and deaths, until all is at rest or
 * the frames are used up. What is left is the first frame: nobody has aged.
 */
function preroll(world: World, step: (substeps: number) => void, stop: () => boolean): void {
  const { settle } = world.shot.quality
  const { first } = world.shot.frames
  if (settle === 0) return
  for (let n = 0; n < settle; n++) {
    const substeps = substepsAt(world, first)
    for (let k = 0; k < substeps && !stop(); k++) step(substeps)
    if (stop() || (n % 6 === 1 && isAtRest(world))) break
  }
  for (const { columns } of world.populations) {
    for (const name of ['age', 'phaseAge', 'travelled'] as const)
      if (columns.at[name]) floats(columns, name).fill(0)
  }
}
