/** The state of a simulation as a whole: copied, brought back, and told by a hash. */
import type { Machine } from '@tangle/kernels'
import { COLUMNS, reserve, words, type ColumnName, type Columns } from '../state/columns.ts'
import type { Cover } from './covers.ts'
import type { LinkState } from '../constraints/linkTopology.ts'
import type { BirthState } from './populationState.ts'
import type { BundleRun, World } from '../constraints/solverBodies.ts'

/** All state at a frame, as copies; `restore` brings it back. */
export interface Snapshot {
  frame: number
  populations: {
    columns: Partial<Record<ColumnName, Uint32Array>>
    count: number
    nextId: number
    /** By id of the birth. */
    births: Record<string, BirthState>
    /** By id of the influence. */
    links: Record<string, LinkState>
  }[]
  /** What bore in the last substep; see solver/bundle.ts. */
  contacts: Float64Array
  /** Heights of covers, by the id of the mesh. */
  covers: Record<string, Float32Array>
  bytes: number
}

export const stateColumns = (columns: Columns): ColumnName[] =>
  columns.names.filter((name) => COLUMNS[name].kept)

export function takeSnapshot(frame: number, { runs, contacts }: World, all: Map<string, Cover>): Snapshot {
  const populations = runs.map((run) => ({
    columns: Object.fromEntries(
      stateColumns(run.columns).map((name) => [name, words(run.columns, name).slice()]),
    ),
    count: run.columns.count,
    nextId: run.nextId,
    births: Object.fromEntries(run.births.map(({ rule, state }) => [rule.id, { ...state }])),
    links: Object.fromEntries([...run.links].map(([id, state]) => [id, { ...state }])),
  }))
  const covers = Object.fromEntries([...all].map(([id, cover]) => [id, cover.heights.slice()]))
  const arrays = [
    contacts,
    ...Object.values(covers),
    ...populations.flatMap(({ columns, links }) => [
      ...Object.values(columns),
      ...Object.values(links).map((one) => one.records),
    ]),
  ]
  const bytes = arrays.reduce((sum, array) => sum + array.byteLength, 0)
  return { frame, populations, contacts, covers, bytes }
}

export function putBack(snapshot: Snapshot, world: World, covers: Map<string, Cover>): void {
  world.contacts = snapshot.contacts
  for (const [id, cover] of covers) {
    cover.heights.set(snapshot.covers[id]!)
    cover.raise()
  }
  world.runs.forEach((run, n) => {
    const saved = snapshot.populations[n]!
    run.columns.count = 0
    reserve(run.columns, saved.count)
    run.columns.count = saved.count
    for (const name of stateColumns(run.columns)) words(run.columns, name).set(saved.columns[name]!)
    run.nextId = saved.nextId
    run.links = new Map(Object.entries(saved.links).map(([id, state]) => [id, { ...state }]))
    // a birth that is new since the snapshot starts from nothing
    for (const birth of run.births) birth.state = { owed: 0, done: 0, ...saved.births[birth.rule.id] }
  })
}

/** 64-bit hash of all columns and covers, 16 hexadecimal digits. */
export function fingerprintOf(machine: Machine, runs: BundleRun[], covers: Map<string, Cover>): string {
  const { heap } = machine
  let low = 0x243f6a88
  let high = 0x85a308d3
  const mix = (count: number, pointer: number): void => {
    low = machine.call('hashWords', 0, count, pointer, low)
    high = machine.call('hashWords', 0, count, pointer, high)
  }
  for (const { columns } of runs)
    for (const name of stateColumns(columns)) mix(columns.count * COLUMNS[name].width, columns.at[name])
  for (const { heights } of covers.values()) {
    const copy = heap.allocate(heights.byteLength)
    heap.f32(copy, heights.length).set(heights)
    mix(heights.length, copy)
    heap.free(copy)
  }
  return [high, low].map((word) => (word >>> 0).toString(16).padStart(8, '0')).join('')
}
