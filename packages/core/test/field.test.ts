/** The field of distances: what it says of a cell is never more than the way to the surface from any place in it, and its side is right. */
import { createMachine, layouts } from '@tangle/kernels'
import fc from 'fast-check'
import type { Collider } from '../src/constraints/collider.ts'
import { depths, rightSide } from '../src/constraints/colliders.ts'
import { DEFORMATIONS } from '../src/registry.ts'
import { buildField, isSided, slackenField } from '../src/geometry/field.ts'
import { buildTree, closestPoints, windingNumbers } from '../src/geometry/tree.ts'
import type { Mesh } from '../src/geometry/mesh.ts'
import { createBody } from '../src/scene/body.ts'
import { FIELD_FROM, nearSurface, signedNear } from '../src/scene/distance.ts'
import { box, burst, shotOf, sphere } from './help.ts'

const { distanceField, F64 } = layouts
const place = fc.tuple(...[0, 1, 2].map(() => fc.double({ min: -4, max: 4, noNaN: true })))

test.each([
  ['a ball', sphere(16)],
  ['a long thin box', box(4, 0.1, 0.3)],
])('%s: a lower bound everywhere, most of the way far off, and sides', (_, mesh) => {
  const machine = createMachine()
  const tree = buildTree(machine, mesh)
  const field = buildField(machine, tree, mesh.positions, true)
  const [x, y, z, size, across, up, deep, outside] = machine.heap.f64(field, 9) as unknown as number[]
  const values = machine.heap.f32(field + distanceField.SIZE * F64, across! * up! * deep!)
  const said = (p: number[]): number => {
    const [i, k, n] = [(p[0]! - x!) / size!, (p[1]! - y!) / size!, (p[2]! - z!) / size!].map(Math.floor)
    const isIn = i! >= 0 && k! >= 0 && n! >= 0 && i! < across! && k! < up! && n! < deep!
    return isIn ? values[i! + across! * (k! + up! * n!)]! : outside!
  }
  fc.assert(
    fc.property(place, (p) => {
      const at = Float32Array.from(p as number[])
      const bound = said([...at])
      const distance = closestPoints(machine, tree, at).distances[0]!
      expect(Math.abs(bound)).toBeLessThanOrEqual(distance + 1e-6)
      // within the field no more is lost than the diagonal of a cell
      if (bound !== outside) expect(Math.abs(bound)).toBeGreaterThan(distance - 1.8 * size!)
      if (bound !== 0) expect(bound < 0).toBe(windingNumbers(machine, tree, at)[0]! > 0.5)
    }),
    { numRuns: 1500, seed: 11 },
  )
  expect(values.some((value) => value < 0)).toBe(mesh.positions.length > 24)
  slackenField(machine, field, 0.25)
  expect(machine.heap.f64(field, distanceField.SIZE)[distanceField.slack]).toBe(0.25)
})

test('of an open surface it tells no sides', () => {
  const machine = createMachine()
  const open: Mesh = { ...box(), triangles: box().triangles.slice(3) }
  expect(isSided(machine, buildField(machine, buildTree(machine, open), open.positions, false))).toBe(false)
})

describe.each([
  ['a box', {}],
  [
    'one that is turned, wide and far off',
    { position: [70, -3, 12], rotation: [20, 50, -70], scale: [3, 0.5, 1] },
  ],
  ['a mirrored one', { position: [1, 2, 3], scale: [-2, 2, 2] }],
  ['one of a few millimetres', { position: [0.1, 0, 0], scale: [0.004, 0.004, 0.004] }],
])('sides with the field and without it: %s', (_, at) => {
  const shot = shotOf({ births: [burst()] })
  const mesh = box()
  const [shotMesh] = shot.meshes
  const placed = { ...shotMesh!, place: { ...shotMesh!.place, ...at } as typeof shotMesh.place }

  test.each([0.0005, 0.05, 1])('within %d of its size', (share) => {
    const machine = createMachine()
    const body = createBody(machine, shot, placed, 0, mesh, DEFORMATIONS)
    const [low, high] = boundsOf(body.worldView(1))
    const size = Math.max(...high.map((h, axis) => h - low[axis]!))
    const reach = share * size
    const count = FIELD_FROM + 500
    const points = machine.heap.allocate(count * 12)
    const places = machine.heap.f32(points, count * 3)
    places.forEach((_, k) => {
      const random = Math.abs(Math.sin(k * 12.9898 + 3) * 43758.5453) % 1
      places[k] = (low[k % 3]! + high[k % 3]!) / 2 + (random - 0.5) * 2 * size
    })
    const exact = nearSurface(machine, body, 1, points, count, true)
    const quick = signedNear(machine, body, 1, points, count, reach)
    const [truth, told] = [machine.heap.f32(exact.distance, count), machine.heap.f32(quick.distance, count)]
    const [right, found] = [
      machine.heap.f32(exact.point, count * 3),
      machine.heap.f32(quick.point, count * 3),
    ]
    const skipped = [...told].filter((d) => Math.abs(d) > 1e29).length
    for (let i = 0; i < count; i++) {
      expect(Math.sign(told[i]!)).toBe(Math.sign(truth[i]!))
      if (Math.abs(truth[i]!) > reach) continue
      expect(told[i]).toBe(truth[i])
      expect([...found.subarray(i * 3, i * 3 + 3)]).toEqual([...right.subarray(i * 3, i * 3 + 3)])
    }
    expect([...truth].some((d) => d < 0)).toBe(true)
    // a field that told nothing would be none
    if (share < 1) expect(skipped).toBeGreaterThan(0)
    body.dispose()
  })
})

test('who is deep on the wrong side is known to be, and has its whole depth where that is asked', () => {
  const machine = createMachine()
  const shot = shotOf({ births: [burst()] })
  const body = createBody(machine, shot, shot.meshes[0]!, 0, box(10, 10, 10), DEFORMATIONS)
  const count = FIELD_FROM
  const points = machine.heap.allocate(count * 12)
  // from the middle to two metres beyond a face
  machine.heap
    .f32(points, count * 3)
    .forEach((_, k, all) => (all[k] = k % 3 === 0 ? (7 * k) / (count * 3) : 0))
  const outside = { of: body, side: 1 } as Collider
  const near = rightSide(machine, outside, 1, points, count, 0.05).distance
  expect(near[0]).toBeLessThan(-1e29)
  const whole = depths(machine, outside, 1, points, count, 0.05).distance
  expect(whole[0]).toBeCloseTo(-5, 4)
  expect(whole[count - 1]).toBeCloseTo(1.993, 2)
  expect([...near].map(Math.sign)).toEqual([...whole].map(Math.sign))
})

function boundsOf(positions: Float32Array): [number[], number[]] {
  const [low, high] = [[0, 1, 2].map(() => Infinity), [0, 1, 2].map(() => -Infinity)]
  positions.forEach((x, k) => {
    low[k % 3] = Math.min(low[k % 3]!, x)
    high[k % 3] = Math.max(high[k % 3]!, x)
  })
  return [low, high]
}
