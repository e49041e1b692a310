/** How much a fill pours into vessels whose walls are thinner than its cells. */
import { turnedOver } from '../src/geometry/mesh.ts'
import type { Mesh } from '../src/index.ts'
import { box, column, sphere } from './help.ts'
import { filling, startTank } from './liquidHelp.ts'

function together(...meshes: Mesh[]): Mesh {
  let first = 0
  const triangles = meshes.flatMap((mesh) => {
    const own = Array.from(mesh.triangles, (corner) => corner + first)
    first += mesh.positions.length / 3
    return own
  })
  return {
    positions: Float32Array.from(meshes.flatMap((mesh) => [...mesh.positions])),
    triangles: Uint32Array.from(triangles),
  }
}
const scaled = (mesh: Mesh, by: number): Mesh => ({ ...mesh, positions: mesh.positions.map((x) => x * by) })
const inward = (mesh: Mesh): Mesh => ({ ...mesh, triangles: turnedOver(mesh.triangles) })
const slab = (size: number[], at: number[]): Mesh => {
  const made = box(size[0], size[1], size[2])
  return { ...made, positions: made.positions.map((x, k) => x + at[k % 3]!) }
}
/** A cup of 1 × 1 × 1 with walls of 2 cm, open above. */
const cup = together(
  slab([1, 0.02, 1], [0, 0.01, 0]),
  slab([0.02, 1, 1], [0.49, 0.5, 0]),
  slab([0.02, 1, 1], [-0.49, 0.5, 0]),
  slab([1, 1, 0.02], [0, 0.5, 0.49]),
  slab([1, 1, 0.02], [0, 0.5, -0.49]),
)
/** A sealed ball of radius 1 with a skin of 3 cm. */
const ball = together(sphere(32), inward(scaled(sphere(32), 0.97)))

const filled = (mesh: Mesh, width: number, level: number, place: object = {}): number =>
  column(
    startTank({
      meshes: [mesh],
      places: { 0: place },
      width,
      side: 'either',
      births: [filling('tank', level, { holds: 'hollow' })],
    }),
    'radius',
  ).length *
  width ** 3

describe.each([0.01, 1, 40])('vessels %p m wide', (size) => {
  test.each([0.12, 0.09, 0.04])('a cup with thin walls, cells of %p', (width) => {
    for (const rotation of [
      [0, 0, 0],
      [0, 30, 0],
    ]) {
      const volume = filled(scaled(cup, size), width * size, 0.6, { rotation }) / size ** 3
      expect(Math.abs(volume / (0.96 ** 2 * 0.58) - 1)).toBeLessThan(0.2)
    }
  })

  test.each([0.2, 0.13, 0.07])('a sealed ball with a thin skin, cells of %p', (width) => {
    const volume = filled(scaled(ball, size), width * size, 0.5) / size ** 3
    expect(Math.abs(volume / ((2 / 3) * Math.PI * 0.97 ** 3) - 1)).toBeLessThan(0.1)
  })
})

test('what is open beside holds nothing', () => {
  const leaking = together(slab([1, 0.02, 1], [0, 0.01, 0]), slab([0.02, 1, 1], [0.49, 0.5, 0]))
  expect(filled(leaking, 0.1, 0.6)).toBe(0)
})
