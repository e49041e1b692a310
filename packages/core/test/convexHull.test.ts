/** Hulls of few points, against a general-purpose library, closed forms, and points that lie in planes and lines. */
import quickHull from 'quickhull3d/dist/quickhull3d.js'
import fc from 'fast-check'
import { hullFaces } from '../src/geometry/convexHull.ts'
import { cross, dot, subtract, type Vector } from '../src/math/vector.ts'

const volumeOf = (points: Vector[], loops: readonly (readonly number[])[]): number =>
  loops.reduce((sum, loop) => {
    const [a, b, c] = loop.map((k) => subtract(points[k]!, points[0]!)) as [Vector, Vector, Vector]
    return sum + dot(a, cross(b, c)) / 6
  }, 0)
const hullVolume = (points: Vector[]): number =>
  volumeOf(points, hullFaces(points).map(({ loop }) => loop)) // prettier-ignore

/** Closed, and with no point outside. */
function expectHull(points: Vector[], slack: number): void {
  const faces = hullFaces(points)
  const edges = new Set(faces.flatMap(({ loop: [a, b, c] }) => [`${a} ${b}`, `${b} ${c}`, `${c} ${a}`]))
  expect(edges.size).toBe(faces.length * 3)
  for (const edge of edges) expect(edges.has(edge.split(' ').reverse().join(' '))).toBe(true)
  for (const { normal, level } of faces)
    for (const p of points) expect(dot(normal, p) - level).toBeLessThan(slack)
}

const number = fc.integer({ min: -1000, max: 1000 }).map((x) => x / 1000)
test('hulls of points anywhere are closed, hold all of them, and have the volume that a library finds', () => {
  fc.assert(
    fc.property(
      fc.array(fc.tuple(number, number, number), { minLength: 4, maxLength: 32 }),
      fc.constantFrom(1e-3, 1, 300),
      (unscaled, scale) => {
        const points = unscaled.map((p) => p.map((x) => x * scale) as Vector)
        fc.pre(hullFaces(points).length > 0)
        expectHull(points, 1e-5 * scale)
        const volume = volumeOf(points, quickHull(points, { skipTriangulation: false }))
        expect(Math.abs(hullVolume(points) - volume)).toBeLessThan(1e-4 * scale ** 3)
      },
    ),
    { numRuns: 100, seed: 4 },
  )
})

test('points on a grid, in planes and lines by the dozen, end and have the volume of their box', () => {
  const at = [0, 1, 2, 3].map((x) => x / 3)
  const grid = at.flatMap((x) => at.flatMap((y) => at.map((z): Vector => [x, 2 * y, 3 * z])))
  for (const tilt of [0, 1e-8, 1e-7]) {
    const points = grid.map(([x, y, z], k): Vector => [x + tilt * Math.sin(k), y + tilt * Math.cos(3 * k), z + tilt * Math.sin(7 * k)]) // prettier-ignore
    expectHull(points, 1e-5)
    expect(hullVolume(points)).toBeCloseTo(6, 4)
  }
})

test('what lies in a plane, on a line or in a point has none', () => {
  const line = Array.from({ length: 9 }, (_, k): Vector => [k, 2 * k, -k])
  const plane = Array.from({ length: 16 }, (_, k): Vector => [k % 4, Math.floor(k / 4), 1])
  for (const points of [[], line, plane, line.map((): Vector => [1, 2, 3])])
    expect(hullFaces(points)).toEqual([])
})
