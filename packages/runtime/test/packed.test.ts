import fc from 'fast-check'
import { DataUtils } from 'three'
import { toHalf } from '@tangle/core'
import { buffersOf, packedBytes, packFrame, packPopulation } from '../src/browser/packed.ts'

/** three's own conversion cuts off where ours rounds: they are at most one step apart. */
test('half floats come back within half a step, and agree with an independent reader', () => {
  fc.assert(
    fc.property(fc.double({ min: -60000, max: 60000, noNaN: true }), (value) => {
      const back = DataUtils.fromHalfFloat(toHalf(value))
      expect(Math.abs(back - value)).toBeLessThanOrEqual(
        Math.max(Math.abs(value) * 2 ** -11, 2 ** -25) * 1.0001,
      )
    }),
    { numRuns: 2000, seed: 3 },
  )
  expect([0, 1, -2, 65504, 1e9, 2 ** -24].map((v) => DataUtils.fromHalfFloat(toHalf(v)))).toEqual([
    0,
    1,
    -2,
    65504,
    65504,
    2 ** -24,
  ])
})

test('a frame is packed for drawing: positions as they are, age as a share or in seconds', () => {
  const packed = packPopulation({
    id: 'p',
    count: 2,
    columns: {
      id: new Uint32Array([7, 9]),
      phase: new Uint32Array([0, 2]),
      opacity: new Float32Array([1, 0.5]),
      position: new Float32Array([1, 2, 3, 4, 5, 6]),
      velocity: new Float32Array([3, 4, 0, 0, 0, 0]),
      radius: new Float32Array([0.5, 0.25]),
      age: new Float32Array([1, 6]),
      lifespan: new Float32Array([4, Infinity]),
    },
  })
  expect(Array.from(packed.positions)).toEqual([1, 2, 3, 4, 5, 6])
  expect(Array.from(packed.values, (v) => DataUtils.fromHalfFloat(v))).toEqual([
    0.5, 0.25, 5, 0, 0.25, 6, 0, 0,
  ])
  expect(Array.from(packed.ids)).toEqual([7, 9])
  expect([0, 1, 4, 5].map((k) => packed.traits[k])).toEqual([0, 255, 2, 128])
  expect(packed.turns).toBeNull()
  expect(packedBytes([packed])).toBe(56)
})

test('what is handed over of a frame of a take is none of what was decoded: the next frame refers to that', () => {
  const columns = {
    id: Uint32Array.of(1, 2),
    phase: new Uint32Array(2),
    position: new Float32Array(6),
    velocity: new Float32Array(6),
    colour: new Float32Array(6),
    orientation: new Float32Array(8),
    'own.heat': new Float32Array(2),
  }
  const mesh = {
    id: 'm',
    positions: new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0]),
    triangles: Uint32Array.of(0, 1, 2),
  }
  const { populations, meshes } = packFrame({ populations: [{ id: 'p', count: 2, columns }], meshes: [mesh] })
  structuredClone(null, { transfer: buffersOf(populations, meshes) })
  const kept = [...Object.values(columns), mesh.positions, mesh.triangles]
  expect(kept.map((array) => array.length)).toEqual([2, 2, 6, 6, 6, 8, 2, 9, 3])
})

test('spins are counted and handed over with the rest', () => {
  const columns = { id: Uint32Array.of(1, 2), position: new Float32Array(6) }
  const still = packPopulation({ id: 'bits', count: 2, columns })
  const turning = packPopulation({ id: 'bits', count: 2, columns: { ...columns, angularVelocity: Float32Array.of(1, 2, 3, 4, 5, 6) } }) // prettier-ignore
  expect(packedBytes([turning]) - packedBytes([still])).toBe(6 * 4)
  expect(buffersOf([turning])).toContain(turning.spins!.buffer)
})
