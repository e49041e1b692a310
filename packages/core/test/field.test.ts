/** The field of distances: what it says of a cell is never more than the way to the surface from any place in it. */
import { createMachine } from '@tangle/kernels'
import fc from 'fast-check'
import { buildField, slackenField } from '../src/geometry/field.ts'
import { buildTree, closestPoints } from '../src/geometry/tree.ts'
import { box, sphere } from './help.ts'

test.each([
  ['a ball', sphere(16)],
  ['a long thin box', box(4, 0.1, 0.3)],
])('%s: a lower bound everywhere, and most of the way far off', (_, mesh) => {
  const machine = createMachine()
  const tree = buildTree(machine, mesh)
  const field = buildField(machine, tree, mesh.positions)
  const [x, y, z, size, across, up, deep, outside] = machine.heap.f64(field, 9) as unknown as number[]
  const values = machine.heap.f32(field + 72, across! * up! * deep!)
  const said = (p: number[]): number => {
    const [i, k, n] = [(p[0]! - x!) / size!, (p[1]! - y!) / size!, (p[2]! - z!) / size!].map(Math.floor)
    const isIn = i! >= 0 && k! >= 0 && n! >= 0 && i! < across! && k! < up! && n! < deep!
    return isIn ? values[i! + across! * (k! + up! * n!)]! : outside!
  }
  const place = fc.tuple(...[0, 1, 2].map(() => fc.double({ min: -4, max: 4, noNaN: true })))
  fc.assert(
    fc.property(place, (p) => {
      const at = Float32Array.from(p as number[])
      const [distance] = closestPoints(machine, tree, at).distances
      expect(said([...at])).toBeLessThanOrEqual(distance! + 1e-6)
      // within the field no more is lost than the diagonal of a cell
      if (said([...at]) !== outside) expect(said([...at])).toBeGreaterThan(distance! - 1.8 * size!)
    }),
    { numRuns: 1500, seed: 11 },
  )
  slackenField(machine, field, 0.25)
  expect(machine.heap.f64(field, 9)[8]).toBe(0.25)
})
