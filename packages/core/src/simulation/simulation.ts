import type { Machine } from '@tangle/kernels'
import type { Mesh } from '../geometry/mesh.ts'
import { INFLUENCES } from '../influences/index.ts'
import { createMasks, type Masks } from '../scene/masks.ts'
import { seedFrom } from '../math/random.ts'
import { add, scale } from '../math/vector.ts'
import { measureContact, measureEnergy, measureLinks } from '../measures/contact.ts'
import { measureFrame, type Measures } from '../measures/measures.ts'
import { valueAt } from '../document/keys.ts'
import { meshesInUse } from '../schema/references.ts'
import type { Population, Shot } from '../document/types.ts'
import { bury, driftHalf, gatherInfluences, integrate, runInfluences, type Moment } from './influencePass.ts'
import { createBodies, type Body } from '../scene/bodies.ts'
import { holdTogether, loosen } from '../constraints/solver.ts'
import { coverMesh, createCovers, measureCover } from './covers.ts'
import { gatherCovers } from './coverAccumulation.ts'
import type { BundleRun, World } from '../constraints/solverBodies.ts'
import { giveBirths } from './emission.ts'
import { createColumns, floats, freeColumns, reserve, view, words, type ColumnName } from '../state/columns.ts'
import { giveCues } from './transitions.ts'
import { columnsOf } from '../schema/requiredAttributes.ts'
import { goalDistances, pairSeekers, sampleGoal, type GoalSample } from './targets.ts'
import { linkedOnes } from '../constraints/linkTopology.ts'
import { fingerprintOf, putBack, stateColumns, takeSnapshot, type Snapshot } from './snapshot.ts'
import { measureOverlaps } from '../state/neighbours.ts'
import { eatenMesh, measureArea, type AreaMeasures, type MeshFrame } from '../scene/clippedMesh.ts'

/** The particles of one population at a frame. The arrays are views: copy what must last. */
export interface PopulationFrame {
  id: string
  count: number
  columns: Partial<Record<ColumnName, Float32Array | Uint32Array>>
}

export interface Simulation {
  readonly shot: Shot
  /** The frame that the state belongs to. */
  readonly frame: number
  /** Computes the next frame. Returns false when `stop` said to leave off; the state is then lost. */
  advance(): boolean
  populations(): PopulationFrame[]
  /** What is left of the meshes that are eaten, and the covers on meshes, in the world. */
  meshes(): MeshFrame[]
  measures(): Measures
  /** Where about `most` particles of each population want to go, goal by goal. */
  goals(most: number): GoalSample[][]
  snapshot(): Snapshot
  restore(snapshot: Snapshot): void
  /** 64-bit hash of all columns, 16 hexadecimal digits. */
  fingerprint(): string
  dispose(): void
}

export interface SimulationOptions {
  /** Part of the particles to compute, 0–1; the same ids as in the whole. */
  share?: number
  /** Goes on from here: nothing has to settle first. */
  from?: Snapshot
  /** Asked between substeps; true leaves off. */
  stop?: () => boolean
}

interface Run extends BundleRun {
  /** Of the frame just computed. */
  bornBefore: number
  diedBefore: number
}

/**
 * A shot made ready to run. `meshes` are by `sourceKey` ("sha256:…" for stored ones), welded.
 * The state is that of the first frame, with its bursts.
 */
export function createSimulation(
  machine: Machine,
  shot: Shot,
  meshes: Map<string, Mesh>,
  { share = 1, stop = () => false, from }: SimulationOptions = {},
): Simulation {
  const { heap } = machine
  const { first, last, rate } = shot.frames
  const h = 1 / (rate * shot.quality.substeps)
  const bodies = createBodies(machine, shot, meshes, meshesInUse(shot))
  const masks = createMasks(machine, shot, bodies)
  const runs = shot.populations.map((population) => startPopulation(machine, shot, population, bodies, masks))
  const covers = createCovers(machine, shot, bodies)
  let frame = first

  const stretch = (from: number, to: number) => ({ from, to, rate, first, last, opening: to === from, share })
  const world = { machine, shot, bodies, masks, runs, covers }
  const together: World = { runs, iterations: shot.quality.iterations, contacts: new Float64Array(0) }
  const beBorn = (from: number, to: number): void => {
    for (const run of runs) giveBirths(run, stretch(from, to))
    for (const run of runs) pairSeekers(world, run, from)
  }
  if (!from) beBorn(first, first)

  /** One substep, from frame `from` to frame `to` (fractions). The stages of docs/solver.md. */
  function substep(from: number, to: number): void {
    beBorn(from, to)
    runs.forEach((run) => giveCues(run, momentOf(from, to)))
    move(from, to)
    for (const run of runs) bury(run, h)
  }
  const momentOf = (from: number, to: number): Moment => ({ ...world, from, to, first, rate, h })
  /** All that moves particles and changes them. */
  function move(from: number, to: number): void {
    const moment = momentOf(from, to)
    const each = (stage: (run: Run, moment: Moment) => void): void =>
      runs.forEach((run) => stage(run, moment))
    each(driftHalf)
    each(gatherInfluences)
    each(integrate)
    each(loosen)
    each((run) => runInfluences(run, moment, 'hold', true))
    holdTogether(together, moment)
    each((run) => runInfluences(run, moment, 'hold', false))
    each((run) => runInfluences(run, moment, 'change'))
  }
  if (!from) settle(shot, runs, () => move(first, first), stop)

  const simulation: Simulation = {
    shot,
    get frame() {
      return frame
    },
    advance() {
      for (const run of runs) {
        run.bornBefore = run.born
        run.diedBefore = run.died
      }
      const { substeps } = shot.quality
      for (let k = 0; k < substeps; k++) {
        if (stop()) return false
        substep(frame + k / substeps, frame + (k + 1) / substeps)
      }
      gatherCovers(runs, covers, momentOf(frame, frame + 1), masks, share)
      frame++
      return true
    },
    populations: () =>
      runs.map(({ source, columns }) => ({
        id: source.id,
        count: columns.count,
        columns: Object.fromEntries(stateColumns(columns).map((name) => [name, view(columns, name)])),
      })),
    meshes: () => [
      ...shot.meshes.flatMap(({ id, eaten }) =>
        eaten ? [eatenMesh(bodies.get(id)!, eaten, masks, frame)] : [],
      ),
      ...[...covers.values()].map((cover) => coverMesh(cover, frame)),
    ],
    measures: () => ({
      ...measureFrame(
        runs.map((run) => ({
          id: run.source.id,
          phases: run.phases,
          columns: run.columns,
          born: run.born - run.bornBefore,
          died: run.died - run.diedBefore,
          goals: run.source.goals.map((goal) => ({
            goal,
            distances: wantedDistances(goal.id, run, goalDistances(world, run, goal.id, frame), frame),
          })),
          overlaps: overlapsMatter(run) ? measureOverlaps(machine, run.columns, linksIn(run)) : null,
          contact: measureContact(run, { ...world, from: frame, to: frame, first, rate, h }),
          links: measureLinks(run),
          energy: measureEnergy(run, frame),
        })),
        bodies.values(),
      ),
      meshes: measureAreas(shot, bodies, masks, frame),
      covers: [...covers.values()].map(measureCover),
    }),
    goals: (most) =>
      runs.map((run) => run.source.goals.map((goal) => sampleGoal(world, run, goal, frame, most))),
    snapshot: () => takeSnapshot(frame, together, covers),
    restore(snapshot) {
      frame = snapshot.frame
      putBack(snapshot, together, covers)
      // what the first frame was born with counts as born in it
      if (frame === first) for (const run of runs) run.born = run.nextId
    },
    fingerprint: () => fingerprintOf(machine, runs, covers),
    dispose() {
      for (const run of runs) {
        freeColumns(run.columns)
        heap.free(run.weights)
        for (const pointer of run.scratch.values()) heap.free(pointer)
      }
      for (const cover of covers.values()) cover.dispose()
      masks.dispose()
      for (const body of bodies.values()) body.dispose()
    },
  }
  if (from) simulation.restore(from)
  return simulation
}

/** Faster than this nothing has settled, m/s. */
const SETTLED = 0.03

/**
 * Runs ahead with the meshes as they stand at the first frame, without births, cues and deaths, until all is at rest or
 * the frames are used up. What is left is the first frame: nobody has aged.
 */
function settle({ quality }: Shot, runs: Run[], move: () => void, stop: () => boolean): void {
  if (quality.settle === 0) return
  for (let n = 0; n < quality.settle * quality.substeps && !stop(); n++) {
    move()
    if (n % (6 * quality.substeps) !== quality.substeps) continue
    if (runs.every(({ columns }) => floats(columns, 'velocity').every((v) => Math.abs(v) < SETTLED))) break
  }
  for (const { columns } of runs) {
    for (const name of ['age', 'phaseAge', 'travelled'] as const)
      if (columns.at[name]) floats(columns, name).fill(0)
  }
}

/** Only of those that make for the goal now; of all where no influence leads there. */
function wantedDistances(goal: string, run: Run, distances: Float32Array, frame: number): Float32Array {
  const leading = run.source.influences.filter((one) => one.goal === goal)
  if (leading.length === 0) return distances
  const wanted = run.phases.map((phase) =>
    leading.some(
      (one) => !one.muted && (one.weights[phase] ?? 0) !== 0 && valueAt(one.strength, frame) !== 0,
    ),
  )
  const phase = words(run.columns, 'phase')
  return distances.map((d, i) => (wanted[phase[i]!] ? d : -1))
}

/** Up to so many particles overlaps are always counted. */
const FEW = 50_000
const overlapsMatter = ({ columns, source }: Run): boolean =>
  columns.count <= FEW ||
  source.influences.some((one) => !one.muted && INFLUENCES.find((k) => k.kind === one.kind)?.keepsApart)

const linksIn = ({ columns, links }: Run) =>
  links.size > 0 ? linkedOnes(words(columns, 'id'), links.values()) : null

function startPopulation(
  machine: Machine,
  shot: Shot,
  source: Population,
  bodies: Map<string, Body>,
  masks: Masks,
): Run {
  const seed = seedFrom(shot.seed, source.id)
  const columns = createColumns(machine.heap, columnsOf(source, shot.populations))
  reserve(columns, 1)
  return {
    source,
    columns,
    nextId: 0,
    born: 0,
    died: 0,
    bornBefore: 0,
    diedBefore: 0,
    births: source.births.map((rule) => {
      const body = bodies.get(rule.mesh)!
      const { mesh, facts, normals, restTree } = body
      const tools = { machine, mesh, facts, tree: restTree, normals, seed }
      const { position, target } = shot.stage.camera
      const view = scale(add(position, target), 0.5)
      return { rule, body, masks, view, mesh: tools, state: { owed: 0, done: 0 } }
    }),
    rules: source.particle,
    phases: source.phases,
    seed,
    scratch: new Map(),
    links: new Map(),
    weights: machine.heap.allocate(8 * source.phases.length),
  }
}

/** Of meshes that a mask eats, or whose surface it turns into particles. */
function measureAreas(shot: Shot, bodies: Map<string, Body>, masks: Masks, frame: number): AreaMeasures[] {
  return shot.meshes.flatMap(({ id, eaten }) => {
    const amounts = shot.populations.flatMap((p) =>
      p.births.filter((b) => b.mesh === id).map((b) => b.amount),
    )
    const swept = amounts.find((amount) => 'swept' in amount)
    const by = eaten ?? swept
    if (!by) return []
    return [measureArea(bodies.get(id)!, by.mask, by.level ?? 0.5, masks, frame)]
  })
}
