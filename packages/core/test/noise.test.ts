/** Curl noise: no divergence (Bridson, Houriham, Nordenstam 2007), and the stated strength. */
import { createMachine } from '@tangle/kernels'
import { CURL_RMS, TABLE_BYTES, writeGradients } from '../src/math/gradients.ts'
import { randoms } from '../src/math/random.ts'

const machine = createMachine()
const { heap } = machine
const table = heap.allocate(TABLE_BYTES)

function curlAt(points: Float32Array): Float32Array {
  const input = heap.allocate(points.byteLength)
  const output = heap.allocate(points.byteLength)
  heap.f32(input, points.length).set(points)
  machine.run('curlAt', points.length / 3, input, output, table, 1, 0.5)
  return heap.f32(output, points.length).slice()
}

test('divergence is zero wherever it is measured', () => {
  writeGradients(heap, table, 11, 0.37)
  const step = 2 ** -7
  const points: number[] = []
  for (let i = 0; i < 500; i++) {
    const at = randoms(5, i, 0).map((r) => Math.round(r * 40 * 128) / 128 - 20)
    for (let axis = 0; axis < 3; axis++) {
      for (const side of [1, -1])
        points.push(...[0, 1, 2].map((k) => at[k]! + (k === axis ? side * step : 0)))
    }
  }
  const u = curlAt(new Float32Array(points))
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

test('the root mean square length is the stated one, at every moment', () => {
  const points = Float32Array.from({ length: 90000 }, (_, i) => randoms(9, i, 1)[0] * 60 - 30)
  const squares = [0, 0.2, 1.7].map((turns) => {
    let sum = 0
    for (const seed of [1, 2, 3, 4]) {
      writeGradients(heap, table, seed, turns)
      sum += curlAt(points).reduce((all, v) => all + v * v, 0) / 30000 / 4
    }
    return Math.sqrt(sum)
  })
  for (const rms of squares) expect(Math.abs(rms / CURL_RMS - 1)).toBeLessThan(0.05)
})
