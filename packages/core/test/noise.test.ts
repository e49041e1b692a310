/** Curl noise: no divergence (Bridson, Houriham, Nordenstam 2007), and the stated strength. */
import { createMachine } from '@tangle/kernels'
import { CURL_RMS, TABLE_BYTES, WHIRL_RMS, writeGradients } from '../src/math/gradients.ts'
import { randoms } from '../src/math/random.ts'

const machine = createMachine()
const { heap } = machine
const table = heap.allocate(TABLE_BYTES)

const axes = heap.allocate(TABLE_BYTES)
/** What the whirls of cells add to an acceleration of 0. */
function whirlsAt(points: Float32Array): Float32Array {
  const [input, output, amount] = [0, 1, 2].map(() => heap.allocate(points.byteLength)) as [
    number,
    number,
    number,
  ]
  heap.f32(input, points.length).set(points)
  heap.f32(output, points.length).fill(0)
  heap.f32(amount, points.length / 3).fill(1)
  machine.run('cellularCurl', points.length / 3, {
    amount,
    acceleration: output,
    position: input,
    table,
    axes,
    frequency: 1,
    amplitude: 1,
  })
  return heap.f32(output, points.length).slice()
}
function curlAt(points: Float32Array): Float32Array {
  const input = heap.allocate(points.byteLength)
  const output = heap.allocate(points.byteLength)
  heap.f32(input, points.length).set(points)
  machine.run('curlAt', points.length / 3, {
    points: input,
    out: output,
    gradients: table,
    frequency: 1,
    offset: 0.5,
  })
  return heap.f32(output, points.length).slice()
}

test.each([
  ['swirls', curlAt],
  ['whirls in cells', whirlsAt],
])('%s: divergence is zero wherever it is measured', (_, field) => {
  writeGradients(heap, table, 11, 0.37)
  writeGradients(heap, axes, 12, 0.37)
  const step = 2 ** -7
  const points: number[] = []
  for (let i = 0; i < 500; i++) {
    const at = randoms(5, i, 0).map((r) => Math.round(r * 40 * 128) / 128 - 20)
    for (let axis = 0; axis < 3; axis++) {
      for (const side of [1, -1])
        points.push(...[0, 1, 2].map((k) => at[k]! + (k === axis ? side * step : 0)))
    }
  }
  const u = field(new Float32Array(points))
  let divergence = 0
  let slope = 0
  for (let i = 0; i < 500; i++) {
    const d = [0, 1, 2].map(
      (axis) => (u[(i * 6 + axis * 2) * 3 + axis]! - u[(i * 6 + axis * 2 + 1) * 3 + axis]!) / (2 * step),
    )
    divergence += Math.abs(d[0]! + d[1]! + d[2]!) / 500
    slope += (Math.abs(d[0]!) + Math.abs(d[1]!) + Math.abs(d[2]!)) / 500
  }
  // central differences err by step²: a thousandth of the slopes themselves
  expect(divergence / slope).toBeLessThan(2e-3)
})

test.each([
  ['swirls', curlAt, CURL_RMS],
  ['whirls in cells', whirlsAt, WHIRL_RMS],
])('%s: the root mean square length is the stated one, at every moment', (_, field, stated) => {
  const points = Float32Array.from({ length: 90000 }, (_, i) => randoms(9, i, 1)[0] * 60 - 30)
  const squares = [0, 0.2, 1.7].map((turns) => {
    let sum = 0
    for (const seed of [1, 2, 3, 4]) {
      writeGradients(heap, table, seed, turns)
      writeGradients(heap, axes, seed + 1, turns)
      sum += field(points).reduce((all, v) => all + v * v, 0) / 30000 / 4
    }
    return Math.sqrt(sum)
  })
  for (const rms of squares) expect(Math.abs(rms / stated - 1)).toBeLessThan(0.05)
})

// the sources of rows are coordinates times primes: joined by "exclusive or" a third of all points had the row of their image
test.each([
  ['swirls', curlAt, (i: number, j: number, k: number) => [i, j, k].map((a) => a - (i + j + k) / 6 - 0.5)],
  ['whirls in cells', whirlsAt, (i: number, j: number, k: number) => [i + 0.5, j + 0.5, k + 0.5]],
])('%s: what turns about the origin is not like itself', (_, field, place) => {
  writeGradients(heap, table, 11, 0.37)
  writeGradients(heap, axes, 12, 0.37)
  const far = [-5, -4, -3, -2, -1, 1, 2, 3, 4, 5]
  const points = far.flatMap((i) => far.flatMap((j) => far.map((k) => [i, j, k] as const)))
  const at = (turn: readonly [number, number, number]): Float32Array =>
    field(Float32Array.from(points.flatMap(([i, j, k]) => place(i * turn[0], j * turn[1], k * turn[2]))))
  const here = at([1, 1, 1])
  const dot = (a: Float32Array, b: Float32Array): number => a.reduce((sum, x, n) => sum + x * b[n]!, 0)
  for (const turn of [
    [1, -1, -1],
    [-1, 1, -1],
    [-1, -1, 1],
    [-1, -1, -1],
    [-1, 1, 1],
  ] as const) {
    const there = at(turn)
    expect(Math.abs(dot(here, there) / Math.sqrt(dot(here, here) * dot(there, there)))).toBeLessThan(0.1)
  }
})
