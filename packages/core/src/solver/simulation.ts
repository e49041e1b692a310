import type { Machine } from '@tangle/kernels'
import { meshFacts, vertexNormals, type Mesh } from '../geometry/mesh.ts'
import { buildTree, freeTree, type Tree } from '../geometry/tree.ts'
import { INFLUENCES } from '../influences/index.ts'
import { seedFrom } from '../math/random.ts'
import { measureFrame, type Measures } from '../measure/measures.ts'
import { valueAt, valuesAt } from '../shot/keys.ts'
import type { Influence, Population, Shot } from '../shot/types.ts'
import { giveBirths, type BirthRun, type BirthState, type PopulationRun } from './born.ts'
import {
  COLUMNS,
  compact,
  createColumns,
  floats,
  freeColumns,
  ON_DEMAND,
  reserve,
  view,
  words,
  type ColumnName,
  type Columns,
} from './columns.ts'

/** The particles of one population at a frame. The arrays are views: copy what must last. */
export interface PopulationFrame {
  id: string
  count: number
  columns: Partial<Record<ColumnName, Float32Array | Uint32Array>>
}

/** All state at a frame, as copies; `restore` brings it back. */
export interface Snapshot {
  frame: number
  populations: {
    columns: Partial<Record<ColumnName, Uint32Array>>
    count: number
    nextId: number
    /** By id of the birth. */
    births: Record<string, BirthState>
  }[]
  bytes: number
}

export interface Simulation {
  readonly shot: Shot
  /** The frame that the state belongs to. */
  readonly frame: number
  /** Computes the next frame. Returns false when `stop` said to leave off; the state is then lost. */
  advance(): boolean
  populations(): PopulationFrame[]
  measures(): Measures
  snapshot(): Snapshot
  restore(snapshot: Snapshot): void
  /** 64-bit hash of all columns, 16 hexadecimal digits. */
  fingerprint(): string
  dispose(): void
}

export interface SimulationOptions {
  /** Part of the particles to compute, 0–1; the same ids as in the whole. */
  share?: number
  /** Asked between substeps; true leaves off. */
  stop?: () => boolean
}

interface Run extends PopulationRun {
  source: Population
  /** Heap blocks of the influences, by id of the influence. */
  scratch: Map<string, number>
  weights: number
  /** Of the frame just computed. */
  bornBefore: number
  diedBefore: number
}

/**
 * A shot made ready to run. `meshes` are by asset name ("sha256:…"), welded.
 * The state is that of the first frame, with its bursts.
 */
export function createSimulation(
  machine: Machine,
  shot: Shot,
  meshes: Map<string, Mesh>,
  { share = 1, stop = () => false }: SimulationOptions = {},
): Simulation {
  const { heap } = machine
  const { first, last, rate } = shot.frames
  const h = 1 / (rate * shot.quality.substeps)
  const tools = meshTools(machine, shot, meshes)
  const runs = shot.populations.map((population) => startPopulation(machine, shot, population, tools))
  let frame = first

  const stretch = (from: number, to: number) => ({ from, to, rate, first, last, opening: to === from, share })
  for (const run of runs) giveBirths(run, stretch(first, first))

  /** One substep, from frame `from` to frame `to` (fractions). The stages of docs/solver.md. */
  function substep(from: number, to: number): void {
    for (const run of runs) {
      giveBirths(run, stretch(from, to))
      gatherInfluences(machine, run, (from + to) / 2, first, rate, h)
      integrate(machine, run, h)
      bury(run, h)
    }
  }

  return {
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
      frame++
      return true
    },
    populations: () =>
      runs.map(({ source, columns }) => ({
        id: source.id,
        count: columns.count,
        columns: Object.fromEntries(stateColumns(columns).map((name) => [name, view(columns, name)])),
      })),
    measures: () =>
      measureFrame(
        runs.map((run) => ({
          id: run.source.id,
          phases: run.phases,
          columns: run.columns,
          born: run.born - run.bornBefore,
          died: run.died - run.diedBefore,
        })),
        tools.values(),
      ),
    snapshot() {
      const populations = runs.map((run) => ({
        columns: Object.fromEntries(
          stateColumns(run.columns).map((name) => [name, words(run.columns, name).slice()]),
        ),
        count: run.columns.count,
        nextId: run.nextId,
        births: Object.fromEntries(run.births.map(({ rule, state }) => [rule.id, { ...state }])),
      }))
      const bytes = populations.reduce(
        (sum, p) => sum + Object.values(p.columns).reduce((all, column) => all + column.byteLength, 0),
        0,
      )
      return { frame, populations, bytes }
    },
    restore(snapshot) {
      frame = snapshot.frame
      runs.forEach((run, n) => {
        const saved = snapshot.populations[n]!
        run.columns.count = 0
        reserve(run.columns, saved.count)
        run.columns.count = saved.count
        for (const name of stateColumns(run.columns)) words(run.columns, name).set(saved.columns[name]!)
        run.nextId = saved.nextId
        // a birth that is new since the snapshot starts from nothing
        for (const birth of run.births) birth.state = { owed: 0, done: 0, ...saved.births[birth.rule.id] }
      })
    },
    fingerprint: () =>
      fingerprint(
        machine,
        runs.map((run) => run.columns),
      ),
    dispose() {
      for (const run of runs) {
        freeColumns(run.columns)
        heap.free(run.weights)
        for (const pointer of run.scratch.values()) heap.free(pointer)
      }
      for (const tool of tools.values()) tool.dispose()
    },
  }
}

const stateColumns = (columns: Columns): ColumnName[] => columns.names.filter((name) => COLUMNS[name].kept)

interface MeshTools {
  shotMesh: Shot['meshes'][number]
  birth: Omit<BirthRun['mesh'], 'seed'>
  dispose(): void
}

/** Facts, tree and normals of the meshes that births use, each made when first asked for. */
function meshTools(machine: Machine, shot: Shot, meshes: Map<string, Mesh>): Map<string, MeshTools> {
  const tools = new Map<string, MeshTools>()
  const used = new Set(shot.populations.flatMap((p) => p.births.map((b) => b.mesh)))
  for (const shotMesh of shot.meshes) {
    if (!used.has(shotMesh.id)) continue
    const asset = 'asset' in shotMesh.source ? shotMesh.source.asset : shotMesh.source.file
    const mesh = meshes.get(asset)
    if (!mesh) throw new MissingMesh(shotMesh.name, asset)
    let tree: Tree | undefined
    tools.set(shotMesh.id, {
      shotMesh,
      birth: {
        machine,
        mesh,
        facts: meshFacts(mesh),
        tree: () => (tree ??= buildTree(machine.heap, mesh)),
        normals: () => vertexNormals(mesh),
      },
      dispose: () => {
        if (tree) freeTree(machine.heap, tree)
      },
    })
  }
  return tools
}

export class MissingMesh extends Error {
  readonly code = 'missing-mesh'
  constructor(name: string, asset: string) {
    super(`The mesh "${name}" (${asset}) is not stored here: add its file again`)
  }
}

function startPopulation(
  machine: Machine,
  shot: Shot,
  source: Population,
  tools: Map<string, MeshTools>,
): Run {
  const seed = seedFrom(shot.seed, source.id)
  const wanted = new Set<ColumnName>(source.look.colour.from === 'travelled' ? ['travelled'] : [])
  const names = (Object.keys(COLUMNS) as ColumnName[]).filter(
    (name) => !ON_DEMAND.includes(name) || wanted.has(name),
  )
  const columns = createColumns(machine.heap, names)
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
      const tool = tools.get(rule.mesh)!
      return { rule, place: tool.shotMesh.place, mesh: { ...tool.birth, seed }, state: { owed: 0, done: 0 } }
    }),
    rules: source.particle,
    phases: source.phases,
    seed,
    scratch: new Map(),
    weights: machine.heap.allocate(8 * source.phases.length),
  }
}

/** Stage 4: every influence adds to acceleration and damping. */
function gatherInfluences(
  machine: Machine,
  run: Run,
  frame: number,
  first: number,
  rate: number,
  h: number,
): void {
  const { columns, source } = run
  machine.run('fill', columns.count * 3, columns.at.acceleration, 0)
  machine.run('fill', columns.count, columns.at.damping, 0)
  for (const influence of source.influences) {
    if (!writeWeights(machine, run, influence, frame)) continue
    const kind = INFLUENCES.find((k) => k.kind === influence.kind)!
    kind.act(valuesAt(kind.parameters, influence, frame), {
      machine,
      columns,
      time: (frame - first) / rate,
      h,
      seed: seedFrom(run.seed, influence.id),
      weights: run.weights,
      scratch(bytes) {
        const pointer = run.scratch.get(influence.id) ?? machine.heap.allocate(bytes)
        run.scratch.set(influence.id, pointer)
        return pointer
      },
    })
  }
}

/** Writes weight × strength per phase; false when the influence does nothing now. */
function writeWeights(machine: Machine, run: Run, influence: Influence, frame: number): boolean {
  if (influence.muted) return false
  const strength = valueAt(influence.strength, frame)
  const weights = machine.heap.f64(run.weights, run.phases.length)
  run.phases.forEach((phase, i) => (weights[i] = (influence.weights[phase] ?? 0) * strength))
  return weights.some((w) => w !== 0)
}

/** Stages 5, 7 and 8: positions, velocities, ages and distances, solved together exactly. */
function integrate(machine: Machine, { columns, rules }: Run, h: number): void {
  const { position, previous, velocity, acceleration, damping, age, phaseAge, travelled } = columns.at
  machine.run(
    'integrate',
    columns.count,
    position,
    previous,
    velocity,
    acceleration,
    damping,
    age,
    phaseAge,
    travelled,
    h,
    rules.speedLimit,
  )
}

/** Stage 8: a particle whose age reaches its lifespan (to the nearest substep) is gone. */
function bury(run: Run, h: number): void {
  if (run.rules.lifespan === null) return
  const age = floats(run.columns, 'age')
  const lifespan = floats(run.columns, 'lifespan')
  run.died += compact(run.columns, (i) => age[i]! + h / 2 >= lifespan[i]!)
}

function fingerprint(machine: Machine, populations: Columns[]): string {
  let low = 0x243f6a88
  let high = 0x85a308d3
  for (const columns of populations) {
    for (const name of stateColumns(columns)) {
      const length = columns.count * COLUMNS[name].width
      low = machine.call('hashWords', 0, length, columns.at[name], low)
      high = machine.call('hashWords', 0, length, columns.at[name], high)
    }
  }
  return [high, low].map((word) => (word >>> 0).toString(16).padStart(8, '0')).join('')
}
