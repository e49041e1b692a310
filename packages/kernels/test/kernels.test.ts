/** The kernels compiled to WebAssembly against their TypeScript form, bit for bit. */
import fc from 'fast-check'
import { createHeap, createMachine, createMemory, instantiate } from '../src/index.ts'
import { bind } from '../src/machine.reference.ts'
import { inOrder, type KernelName, type Kernels } from '../src/machine.ts'
import { RANGE_KERNELS } from '../build/signatures.ts'
import { block, COUNT, type Run } from './call.ts'
import { CALLS } from './calls.ts'

const reference = (await import('../assembly/index' as string)) as Kernels

/** Fills a compiled and a reference memory with the same numbers. */
function twoMemories(values: number[]) {
  const memory = createMemory()
  // lays its constants
  const compiled = instantiate(memory)
  const copy = new SharedArrayBuffer(memory.buffer.byteLength)
  const f32 = new Float32Array(memory.buffer)
  values.forEach((value, i) => (f32[block(0) / 4 + i] = value))
  new Uint8Array(copy).set(new Uint8Array(memory.buffer))
  bind(copy)
  return {
    compiled,
    bytes: new Uint8Array(memory.buffer),
    expected: new Uint8Array(copy),
  }
}
const f64At = (bytes: Uint8Array, pointer: number, values: number[]): void =>
  new Float64Array(bytes.buffer, pointer, values.length).set(values)

/** The end of the blocks. */
const END = block(40)
const called = new Set<KernelName>()
const changed = new Set<KernelName>()

/** Range kernels over 0…count on thread 0; the others as they are. */
const runOn =
  (kernels: Kernels): Run =>
  (kernel, count, values) =>
    void kernels[kernel](...(kernel in RANGE_KERNELS ? [0, count] : []), ...inOrder(kernel, values), 0)

test.each(Object.keys(CALLS))('%s: the compiled form equals the clear form to the bit', (name) => {
  fc.assert(
    fc.property(
      fc.array(fc.double({ min: -50, max: 50, noNaN: true }), { minLength: 4096, maxLength: 4096 }),
      (values) => {
        const { compiled, bytes, expected } = twoMemories(
          // each block begins elsewhere: no two are alike
          Array.from(
            { length: 160 * 1024 },
            (_, i) => values[(i + Math.floor(i / 4096) * 977) % values.length]!,
          ),
        )
        for (const memory of [bytes, expected]) {
          // phases, and anchors on the second triangle of body 1
          new Uint32Array(memory.buffer, block(8), COUNT * 2).fill(1)
          new Uint32Array(memory.buffer, block(15), 6).set([0, 1, 2, 2, 1, 3])
          f64At(memory, block(9), [0.5, 1.25, 2, 2.5, 3.75, 6, 7, 9, 10, 11, 12, 13])
          // a curve of three points, each with an ease of its own
          new Float32Array(memory.buffer, block(14), 12).set([
            -20,
            0.5,
            5,
            1 / 23,
            3,
            2,
            4,
            1 / 22,
            25,
            -1,
            0,
            0,
          ])
          const shares = new Float32Array(memory.buffer, block(16), COUNT)
          shares.forEach((value, i) => (shares[i] = Math.abs(value) / 40))
          // triangle 1 of the mesh above, and a grid whose cells are 20 m wide
          new Uint32Array(memory.buffer, block(18), COUNT).fill(1)
          f64At(memory, block(20), [
            0.05,
            63,
            block(21),
            block(22),
            block(23),
            block(41),
            block(38),
            16 * (COUNT / 4 + 1),
            0,
            block(39),
          ])
          // damping, age and the like are not negative
          for (const n of [4, 5, 6]) {
            const column = new Float32Array(memory.buffer, block(n), COUNT * 3)
            column.forEach((value, i) => (column[i] = Math.abs(value)))
          }
        }
        // call by call: both forms write the same
        const [first, second] = [runOn(compiled), runOn(reference)]
        CALLS[name]!((kernel, count, values) => {
          const before = bytes.slice(0, END)
          first(kernel, count, values)
          second(kernel, count, values)
          if (Buffer.compare(bytes.subarray(0, END), expected.subarray(0, END)) !== 0)
            throw new Error(`${kernel} writes other bytes than its clear form`)
          if (Buffer.compare(bytes.subarray(0, END), before) !== 0) changed.add(kernel)
          called.add(kernel)
        })
      },
    ),
    { numRuns: 20, seed: 7, endOnFailure: true },
  )
})

test('every kernel that was called changed something', () => {
  expect([...called].filter((kernel) => !changed.has(kernel))).toEqual([])
  expect(called.size).toBeGreaterThan(50)
})

test('kernels that only give a number: both forms give the same', () => {
  const { compiled } = twoMemories([])
  for (let k = 0; k < 3000; k++) {
    const z = k < 1000 ? k / 7 : Math.sin(k) ** 2 * 10 ** ((k % 12) - 6)
    expect(compiled.exponentialDecay(z)).toBe(reference.exponentialDecay(z))
    const words = [0, 1, 2, 3, 4, 5].map((n) => Math.imul(k + n, 0x9e3779b1 + n * 77))
    compiled.philoxWords(...words)
    reference.philoxWords(...words)
    for (let lane = 0; lane < 4; lane++) expect(compiled.philoxWord(lane)).toBe(reference.philoxWord(lane))
  }
})

// Source: known-answer vectors of philox4x32-10 in the Random123 distribution (Salmon et al. 2011), from memory.
test.each([
  [
    [0, 0, 0, 0, 0, 0],
    ['6627e8d5', 'e169c58d', 'bc57ac4c', '9b00dbd8'],
  ],
  [
    [-1, -1, -1, -1, -1, -1],
    ['408f276d', '41c83b0e', 'a20bc7c6', '6d5451fd'],
  ],
  [
    [0x243f6a88, 0x85a308d3, 0x13198a2e, 0x03707344, 0xa4093822, 0x299f31d0],
    ['d16cfe09', '94fdcceb', '5001e420', '24126ea1'],
  ],
])('random words of %p are the published ones', (input, words) => {
  const { call } = createMachine()
  call('philoxWords', {
    c0: input[0]!,
    c1: input[1]!,
    c2: input[2]!,
    c3: input[3]!,
    k0: input[4]!,
    k1: input[5]!,
  })
  expect(
    [0, 1, 2, 3].map((lane) => (call('philoxWord', { lane }) >>> 0).toString(16).padStart(8, '0')),
  ).toEqual(words)
})

test('decay is e^(−z) to 1e-12 over its whole range', () => {
  const { call } = createMachine()
  for (let z = 0; z < 600; z += 0.37)
    expect(call('exponentialDecay', { z }) / Math.exp(-z)).toBeCloseTo(1, 12)
  expect(call('exponentialDecay', { z: 1e9 })).toBe(0)
})

test('the heap gives freed blocks again and keeps live ones apart', () => {
  const heap = createHeap(createMemory())
  const before = heap.used
  const a = heap.allocate(1000)
  const b = heap.allocate(1000)
  expect(Math.abs(a - b)).toBeGreaterThanOrEqual(1000)
  heap.free(a)
  expect(heap.allocate(990)).toBe(a)
  // no block is more than a quarter larger than what it holds and the room behind it
  for (let bytes = 300; bytes < 2e6; bytes *= 1.37) {
    const from = heap.used
    const pointer = heap.allocate(bytes)
    expect(heap.used - from).toBeGreaterThanOrEqual(bytes + 48)
    expect(heap.used - from).toBeLessThan(1.25 * (bytes + 48) + 1)
    heap.free(pointer)
  }
  expect(heap.used).toBeGreaterThan(before)
  const big = heap.allocate(64 * 2 ** 20)
  heap.f32(big, 4)[3] = 1
  expect(() => heap.allocate(2 ** 32)).toThrow(/lower the particle count/)
})
