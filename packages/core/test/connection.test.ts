/** Directions carried and averaged over surfaces. */
import { smoothDirections, smoothNumbers, transported } from '../src/geometry/connection.ts'
import { vertexNormals, type Mesh } from '../src/index.ts'
import { cross, dot, length, unit, vectorOf, type Vector } from '../src/math/vector.ts'
import { sheet, sphere } from './help.ts'

/** A ring of so many quads, open above and below, about the y axis. */
function cylinder(around: number, rings: number, radius: number, height: number): Mesh {
  const positions: number[] = []
  const triangles: number[] = []
  for (let j = 0; j <= rings; j++)
    for (let i = 0; i < around; i++) {
      const a = (2 * Math.PI * i) / around
      positions.push(radius * Math.cos(a), (height * j) / rings, radius * Math.sin(a))
      const [p, q] = [j * around + i, j * around + ((i + 1) % around)]
      if (j < rings) triangles.push(p, p + around, q + around, p, q + around, q)
    }
  return { positions: new Float32Array(positions), triangles: new Uint32Array(triangles) }
}

/** Solid angle of a triangle of unit vectors. Source: Van Oosterom, Strackee (1983). */
const solidAngle = (a: Vector, b: Vector, c: Vector): number =>
  2 * Math.atan2(dot(a, cross(b, c)), 1 + dot(a, b) + dot(b, c) + dot(c, a))

describe('directions on a surface', () => {
  test.each([10, 40, 75, 120, 165])(
    'carried around a loop at %s° from the pole, a direction turns by the solid angle (Gauss–Bonnet)',
    (colatitude) => {
      const c = (colatitude * Math.PI) / 180
      const loop = Array.from({ length: 36 }, (_, k): Vector => {
        const a = (2 * Math.PI * k) / 36
        return [Math.sin(c) * Math.cos(a), Math.cos(c), Math.sin(c) * Math.sin(a)]
      })
      const start = unit(cross(loop[0]!, [0, 1, 0]))
      let carried = start
      for (let k = 0; k < 36; k++) carried = transported(carried, loop[k]!, loop[(k + 1) % 36]!)
      const pole: Vector = [0, 1, 0]
      const enclosed = loop.reduce((sum, p, k) => sum + solidAngle(pole, p, loop[(k + 1) % 36]!), 0)
      const turned = Math.atan2(dot(cross(start, carried), loop[0]!), dot(start, carried))
      const off = (turned - enclosed) / (2 * Math.PI)
      expect(off - Math.round(off)).toBeCloseTo(0, 9)
      expect(length(carried)).toBeCloseTo(1, 12)
    },
  )

  test.each([0.02, 1, 300])('smoothing keeps a constant field on a cylinder %s m wide', (radius) => {
    const mesh = cylinder(40, 24, radius, 2 * radius)
    const slanted = new Float64Array(mesh.positions.length)
    const normals = vertexNormals(mesh)
    for (let v = 0; v < slanted.length / 3; v++) {
      // normals of the rims lean around the axis, as their triangles do
      const around = cross(vectorOf(normals, v), [0, 1, 0])
      slanted.set([around[0] * 0.6, 0.8, around[2] * 0.6], v * 3)
    }
    for (const metres of [0.1, 1, 10]) {
      const smoothed = smoothDirections(mesh, slanted, metres * radius)
      smoothed.forEach((x, k) => expect(Math.abs(x - slanted[k]!)).toBeLessThan(1e-5))
    }
  })

  test('smoothing fills what is bare from what is near, and falls off over its length', () => {
    const mesh = sheet(80, 8)
    const bare = new Float64Array(mesh.positions.length)
    for (let v = 0; v < bare.length / 3; v++) if (mesh.positions[v * 3]! < 0) bare[v * 3 + 2] = 1
    const smoothed = smoothDirections(mesh, bare, 0.5)
    // in a plane the step of the heat equation from a half that is 1 is ½·e^(−x/ℓ) beyond its edge
    for (let v = 0; v < bare.length / 3; v++) {
      const [x, , z] = vectorOf(mesh.positions, v)
      if (Math.abs(z) > 1 || x < 0.2 || x > 1.5) continue
      expect(smoothed[v * 3 + 2]! / (0.5 * Math.exp(-(x + 0.05) / 0.5))).toBeCloseTo(1, 1)
      expect(Math.abs(smoothed[v * 3]!)).toBeLessThan(1e-6)
    }
  })

  test('smoothing is even in strength everywhere: what is averaged keeps its sum by area', () => {
    const mesh = sphere(24)
    const numbers = Float64Array.from(
      { length: mesh.positions.length / 3 },
      (_, v) => mesh.positions[v * 3 + 1]!,
    )
    const smoothed = smoothNumbers(mesh, numbers, 0.4)
    const most = (all: Float64Array) => all.reduce((high, x) => Math.max(high, x), -Infinity)
    // the first harmonic of the sphere has the eigenvalue 2: it shrinks to 1/(1 + 2·ℓ²)
    expect(most(smoothed) / most(numbers)).toBeCloseTo(1 / (1 + 2 * 0.4 ** 2), 1)
    // whichever way the triangles lie: the same of a mesh that is mirrored
    const { positions, triangles } = mesh
    const other: Mesh = { positions: positions.map((x, k) => (k % 3 === 1 ? -x : x)), triangles }
    const mirrored = smoothNumbers(other, numbers, 0.4)
    mirrored.forEach((x, v) => expect(x).toBeCloseTo(smoothed[v]!, 5))
  })
})
