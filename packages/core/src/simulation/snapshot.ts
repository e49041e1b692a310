/** The state of a simulation as a whole: copied, brought back, and told by a hash. */
import { layouts, type Machine } from '@tangle/kernels'
import type { Memory } from '../constraints/constraint.ts'
import { CONSTRAINTS } from '../registry.ts'
import type { AttributeName } from '../state/attributes.ts'
import { attributeOf, reserve, savedNames, stateNames, words } from '../state/columns.ts'
import type { SeenPlaces } from '../scene/seen.ts'
import type { EventTable } from '../state/events.ts'
import { forget } from './offspring.ts'
import type { EmissionState, PopulationState, World } from './world.ts'

/** All state at a frame, as copies; `restore` brings it back. */
export interface Snapshot {
  frame: number
  populations: {
    columns: Partial<Record<AttributeName, Uint32Array>>
    count: number
    nextId: number
    /** By id of the birth. */
    births: Record<string, EmissionState>
    /** What happened in the frame. */
    events: EventTable
  }[]
  /** What constraints keep: links, and what contacts bore. */
  memory: Memory
  /** Heights of covers, by the id of the mesh. */
  covers: Record<string, Float32Array>
  /** Where rays have met meshes. */
  seen: SeenPlaces[]
  bytes: number
}

export function takeSnapshot(frame: number, world: World): Snapshot {
  const populations = world.populations.map(({ columns, nextId, emissions, events }) => ({
    columns: Object.fromEntries(savedNames(columns).map((name) => [name, words(columns, name).slice()])),
    count: columns.count,
    nextId,
    births: Object.fromEntries(emissions.map(({ rule, state }) => [rule.id, { ...state }])),
    events: events.table(),
  }))
  const covers = Object.fromEntries([...world.covers].map(([id, cover]) => [id, cover.heights.slice()]))
  for (const kind of CONSTRAINTS) kind.store?.(world.memory, world.machine)
  // a copy throughout: what runs on goes on changing its own
  const memory = copyOf(world.memory)
  const seen = world.seen.tables()
  return { frame, populations, memory, covers, seen, bytes: bytesIn([populations, memory, covers, seen]) }
}

/** A copy of plain data and typed arrays that shares nothing with it. */
function copyOf<T>(value: T): T {
  if (ArrayBuffer.isView(value)) return (value as unknown as Uint8Array).slice() as unknown as T
  if (Array.isArray(value)) return value.map(copyOf) as T
  if (typeof value !== 'object' || value === null) return value
  return Object.fromEntries(Object.entries(value).map(([key, one]) => [key, copyOf(one)])) as T
}

/** Bytes of all typed arrays in a value. */
function bytesIn(value: unknown): number {
  if (ArrayBuffer.isView(value)) return value.byteLength
  if (typeof value !== 'object' || value === null) return 0
  return Object.values(value).reduce<number>((sum, one) => sum + bytesIn(one), 0)
}

export function restoreSnapshot(snapshot: Snapshot, world: World): void {
  for (const kind of CONSTRAINTS) kind.release?.(world.memory, world.machine.heap)
  world.memory = copyOf(snapshot.memory)
  for (const [id, cover] of world.covers) {
    cover.heights.set(snapshot.covers[id]!)
    cover.raise(cover.heights.reduce((most, height) => Math.max(most, height), 0))
  }
  world.seen.restore(snapshot.seen)
  world.populations.forEach((population, n) => {
    const saved = snapshot.populations[n]!
    const { columns } = population
    columns.count = 0
    reserve(columns, saved.count)
    columns.count = saved.count
    for (const name of savedNames(columns)) words(columns, name).set(saved.columns[name]!)
    population.nextId = saved.nextId
    population.events.restore(saved.events)
    if (population.lineage) forget(population.lineage)
    // a birth that is new since the snapshot starts from nothing
    for (const one of population.emissions) one.state = { owed: 0, done: 0, ...saved.births[one.rule.id] }
  })
}

/** 64-bit hash of all columns and covers, 16 hexadecimal digits. */
export function fingerprintOf(
  machine: Machine,
  populations: PopulationState[],
  covers: World['covers'],
): string {
  const { heap } = machine
  let low = 0x243f6a88
  let high = 0x85a308d3
  const mix = (words: number, column: number): void => {
    const chunks = Math.ceil(words / layouts.HASH_CHUNK)
    const out = heap.allocate(chunks * 16)
    machine.run('hashChunks', chunks, { column, words, out })
    const hashes = { from: 0, to: chunks * 4, column: out }
    low = machine.call('hashWords', { ...hashes, seed: low ^ words })
    high = machine.call('hashWords', { ...hashes, seed: high ^ words })
    heap.free(out)
  }
  for (const { columns } of populations)
    for (const name of stateNames(columns))
      mix(columns.count * attributeOf(columns, name).width, columns.at[name]!)
  for (const { heights } of covers.values()) mix(heights.length, heights.byteOffset)
  return [high, low].map((word) => (word >>> 0).toString(16).padStart(8, '0')).join('')
}
