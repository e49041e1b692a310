/**
 * The columns of one population of a frame, coded one after the other by kernels (assembly/codec.ts): each as how it differs from what the frame before lets
 * expect. A machine of its own for all of them, made when it is first needed.
 */
import { ATTRIBUTES, ownId, type AttributeName, type Kept, type PopulationFrame } from '@tangle/core'
import { createMachine, layouts, scopeOf, type Machine } from '@tangle/kernels'
import { MeshoptDecoder } from 'meshoptimizer/decoder'
import { MeshoptEncoder } from 'meshoptimizer/encoder'
import type { CachedFrame } from './cachedFrame.ts'
import type { Code, Column } from './wholes.ts'

type Columns = PopulationFrame['columns']
const { WORD, SAME, WAY, LENGTH, CLOCK } = layouts.codecRule

/** As small as the codec's highest level but one makes them here, in three quarters of the time (docs/performance.md). */
const [LEVEL, VERSION] = [1, 1]

let machine: Machine | undefined

/** How an attribute is kept where a frame is compact; null: it is not. */
export const keptAs = (name: AttributeName): Kept | null =>
  ownId(name) === null ? (ATTRIBUTES[name as 'id'].frames ?? null) : 'exact'

/** Who is who and how fast they go is coded first: where they are follows from it. */
export const inCodedOrder = (names: AttributeName[]): AttributeName[] => {
  const first: AttributeName[] = ['id', 'velocity']
  return [...first.filter((name) => names.includes(name)), ...names.filter((name) => !first.includes(name))]
}

export interface Coder {
  /** The bytes of a column, and the column as it will be read back. */
  encode(name: AttributeName, values: Column, code: Code): { bytes: Uint8Array; column: Column }
  decode(name: AttributeName, bytes: Uint8Array, width: number, code: Code): Column
  /** Gives its memory back. */
  release(): void
}

/** Codes a population of so many particles; `last` is the frame before, null where there is none. */
export function createCoder(id: string, count: number, last: CachedFrame | null, rate: number): Coder {
  machine ??= createMachine()
  const { call } = machine
  const heap = scopeOf(machine.heap)
  const before: Columns = last?.populations.find((one) => one.id === id)?.columns ?? {}
  const was = before.id?.length ?? 0
  const seconds = Math.fround(1 / rate)
  const put = (values: Column): number => {
    const pointer = heap.allocate(values.byteLength)
    heap.u32(pointer, values.length).set(new Uint32Array(values.buffer, values.byteOffset, values.length))
    return pointer
  }
  // known once their columns are coded; 0: there is none
  let [index, v0, v1] = [0, 0, 0]
  function know(name: AttributeName, pointer: number): boolean {
    if (name === 'id' && before.id) {
      const ids = put(before.id)
      index = heap.allocate(count * 4)
      call('indexOfIds', { count, ids: pointer, countBefore: was, before: ids, index })
      heap.free(ids)
    }
    if (name !== 'velocity' || index === 0 || before.velocity?.length !== was * 3) return false
    v0 = put(before.velocity)
    v1 = pointer
    return true
  }
  function ruleOf(name: AttributeName, code: Code): number {
    if ('bits' in code) return WORD
    const kept = keptAs(name)
    if (kept === 'place' && v1 !== 0) return WAY
    if (kept === 'distance' && v1 !== 0) return LENGTH
    return kept === 'time' ? CLOCK : SAME
  }
  /** Writes what is expected of a column; returns where particles are in the frame before, or 0: nothing is known of it. */
  function expect(name: AttributeName, width: number, code: Code, expected: number): number {
    const values = before[name]
    if (index === 0 || name === 'id' || values?.length !== was * width) return 0
    const column = name === 'velocity' && v0 !== 0 ? v0 : put(values)
    call('expectWholes', { count, width, index, rule: ruleOf(name, code), last: column, v0, v1, seconds, ...stepsOf(code), expected }) // prettier-ignore
    if (column !== v0) heap.free(column)
    return index
  }
  function columnAt(pointer: number, length: number, code: Code): Column {
    const values = 'bits' in code ? heap.u32(pointer, length) : heap.f32(pointer, length)
    return values.slice()
  }
  /** Whole numbers become the column, in place; its memory stays while others need it. */
  function finish(name: AttributeName, wholes: number, length: number, code: Code): Column {
    if (!('bits' in code)) call('numbersOf', { length, wholes, ...stepsOf(code), values: wholes })
    const column = columnAt(wholes, length, code)
    if (!know(name, wholes)) heap.free(wholes)
    return column
  }
  return {
    encode(name, values, code) {
      const { length } = values
      const width = length / count
      const wholes = put(values)
      const expected = heap.allocate(length * 4)
      if (!('bits' in code)) call('wholesOf', { length, values: wholes, ...stepsOf(code), wholes })
      const from = expect(name, width, code, expected)
      call('foldDifferences', { count, width, index: from, wholes, expected })
      // the encoder copies from memory that is not shared
      const folded = new Uint8Array(heap.u32(expected, length).slice().buffer)
      heap.free(expected)
      const bytes =
        count === 0
          ? new Uint8Array()
          : MeshoptEncoder.encodeVertexBufferLevel(folded, count, width * 4, LEVEL, VERSION)
      return { bytes, column: finish(name, wholes, length, code) }
    },
    decode(name, bytes, width, code) {
      const length = count * width
      const [wholes, expected] = [heap.allocate(length * 4), heap.allocate(length * 4)]
      const raw = new Uint8Array(heap.memory.buffer, wholes, length * 4)
      if (count > 0) MeshoptDecoder.decodeVertexBuffer(raw, count, width * 4, bytes)
      const from = expect(name, width, code, expected)
      call('unfoldDifferences', { count, width, index: from, wholes, expected })
      heap.free(expected)
      return finish(name, wholes, length, code)
    },
    release: heap.release,
  }
}

const stepsOf = (code: Code): { step: number; dropped: number } => ({
  step: 'step' in code ? code.step : 0,
  dropped: 'dropped' in code ? code.dropped : 0,
})
