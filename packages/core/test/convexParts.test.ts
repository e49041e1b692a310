/** Hollow and bent meshes stand as several hulls, which fill hardly more than they do. */
import quickHull from 'quickhull3d/dist/quickhull3d.js'
import * as THREE from 'three'
import { convexParts } from '../src/geometry/convexParts.ts'
import { cross, dot, subtract, type Vector } from '../src/math/vector.ts'
import { asset, box } from './help.ts'
import { brokenShot, meshesOf, simulate, solid } from './rigidHelp.ts'

function soupOf(geometry: THREE.BufferGeometry, scale = 1) {
  const plain = geometry.index ? geometry.toNonIndexed() : geometry
  const positions = Float32Array.from(plain.attributes.position!.array, (x) => x * scale)
  return { positions, triangles: Uint32Array.from({ length: positions.length / 3 }, (_, i) => i) }
}
/** Half a hollow ball with a wall, open above. */
function bowl(wall: number): THREE.BufferGeometry {
  const arc = (r: number) => Array.from({ length: 9 }, (_, k) => {
    const a = ((k / 8 - 1) * Math.PI) / 2
    return new THREE.Vector2(Math.max(0, r * Math.cos(a)), r * Math.sin(a))
  }) // prettier-ignore
  return new THREE.LatheGeometry([...arc(1), ...arc(1 - wall).reverse()], 24)
}
const corner = (): THREE.BufferGeometry => {
  const outline = [[0, 0], [2, 0], [2, 0.4], [0.4, 0.4], [0.4, 2], [0, 2]].map(([x, y]) => new THREE.Vector2(x, y)) // prettier-ignore
  return new THREE.ExtrudeGeometry(new THREE.Shape(outline), { depth: 0.4, bevelEnabled: false })
}

function planesOf(points: Vector[]) {
  return quickHull(points).map((loop) => {
    const [a, b, c] = loop.map((k) => points[k]!) as [Vector, Vector, Vector]
    const normal = cross(subtract(b, a), subtract(c, a))
    return { normal, level: dot(normal, a) }
  })
}
const volumeOf = (points: Vector[]): number =>
  quickHull(points).reduce((sum, loop) => {
    const [a, b, c] = loop.map((k) => points[k]!) as [Vector, Vector, Vector]
    return sum + dot(a, cross(b, c)) / 6
  }, 0)
const holds = (parts: Vector[][], p: Vector): boolean =>
  parts.some((points) => planesOf(points).every(({ normal, level }) => dot(normal, p) < level))

test.each([0.001, 1, 300])('what is convex is one hull, at %d m', (scale) => {
  for (const shape of [new THREE.BoxGeometry(1, 2, 3), new THREE.SphereGeometry(1, 32, 24), new THREE.ConeGeometry(1, 2, 20)])
    expect(convexParts(soupOf(shape, scale))).toHaveLength(1)
}) // prettier-ignore

test.each([0.001, 1, 300])('bowls, rings and corners keep their hollows, at %d m', (scale) => {
  const at = (...p: Vector): Vector => p.map((x) => x * scale) as Vector
  const inBowl = convexParts(soupOf(bowl(0.1), scale))
  expect(holds(inBowl, at(0, -0.3, 0))).toBe(false)
  expect(holds(inBowl, at(0.4, -0.2, 0.3))).toBe(false)
  expect(holds(inBowl, at(0.07, -0.94, 0.05))).toBe(true)
  const ring = convexParts(soupOf(new THREE.TorusGeometry(1, 0.25, 10, 28), scale))
  expect(holds(ring, at(0, 0, 0))).toBe(false)
  expect(holds(ring, at(0.55, 0, 0))).toBe(false)
  // along its middle line it is filled, but for corners where it is cut
  const along = Array.from({ length: 97 }, (_, k) => at(Math.cos(k), Math.sin(k), 0.03))
  expect(along.filter((p) => holds(ring, p)).length).toBeGreaterThan(75)
  const bent = convexParts(soupOf(corner(), scale))
  expect(bent).toHaveLength(2)
  expect(holds(bent, at(0.8, 0.8, 0.2))).toBe(false)
  expect(bent.reduce((sum, part) => sum + volumeOf(part), 0) / scale ** 3).toBeCloseTo(0.576, 3)
})

test('flat and empty meshes have no more than their points', () => {
  expect(convexParts(soupOf(new THREE.PlaneGeometry(1, 1)))).toEqual([expect.arrayContaining([[0.5, 0.5, 0]])]) // prettier-ignore
  expect(convexParts({ positions: new Float32Array(0), triangles: new Uint32Array(0) })).toEqual([[]])
})

test.each([0.02, 20])('a ball lies in a bowl that is a rigid body itself, at %d m', async (size) => {
  const vessel = await solid((of) => of.sphere(1, 24).subtract(of.sphere(0.85, 24)).trimByPlane([0, -1, 0], 0.15).scale(size)) // prettier-ignore
  const floor = { id: 'f', kind: 'floor', weights: { Free: 1 }, height: -size, friction: 0.8 }
  const shot = brokenShot({ pieces: 1 }, { influences: [{ id: 'g', kind: 'gravity', weights: { Free: 1 } }, { id: 'r', kind: 'rigid', weights: { Free: 1 }, bounce: 0 }, floor] }, {
    frames: { first: 1, last: 200, rate: 24 }, quality: { substeps: 6, iterations: 6 },
  }) // prettier-ignore
  const ball = { ...shot.populations[0]!, id: 'ball', births: [{ ...shot.populations[0]!.births[0]!, mesh: 'ball-broken' }] } // prettier-ignore
  const other = 'sha256:' + '2'.repeat(64)
  const whole = { ...shot, populations: [shot.populations[0]!, ball], meshes: [...shot.meshes,
    { ...shot.meshes[0]!, id: 'ball', source: { asset: other } },
    { ...shot.meshes[1]!, id: 'ball-broken', source: { fracture: { ...(shot.meshes[1]!.source as { fracture: object }).fracture, mesh: 'ball' } } }] } as typeof shot // prettier-ignore
  const small = await solid((of) => of.sphere(0.25, 24).translate([0.2, -0.3, 0]).scale(size))
  const simulation = await simulate(whole, await meshesOf(whole, vessel, { [other]: small }))
  for (let n = 0; n < 48; n++) simulation.advance()
  const [, y] = simulation.populations()[1]!.columns.position as Float32Array
  // at the bottom of the bowl: on −0.85, not on the lid that one hull would be
  expect(y! / size).toBeLessThan(-0.45)
  expect(y! / size).toBeGreaterThan(-0.66)
})

test.each([0.03, 1])('a ring of %d m falls over a post and lies about it', async (size) => {
  const post = asset(3)
  const ring = await solid((of) => of.cylinder(0.3, 1, 1, 24, true).subtract(of.cylinder(1, 0.7, 0.7, 24, true)).rotate([90, 0, 0]).scale(size)) // prettier-ignore
  const acts = { weights: { Free: 1 }, friction: 0.3, sliding: 0.3, bounce: 0 }
  const shot = brokenShot({ pieces: 1 }, { influences: [
    { id: 'g', kind: 'gravity', weights: { Free: 1 } }, { id: 'r', kind: 'rigid', ...acts }, { id: 'f', kind: 'floor', ...acts },
    { id: 'c', kind: 'collide', mesh: 'post', ...acts },
  ] }, { frames: { first: 1, last: 200, rate: 24 }, quality: { substeps: 8, iterations: 6 }, meshes: [{ id: 'post', source: { asset: post } }] }, { position: [0.05 * size, 2 * size, 0] }) // prettier-ignore
  const simulation = await simulate(shot, await meshesOf(shot, ring, { [post]: box(0.4 * size, 3 * size, 0.4 * size) }))
  for (let n = 0; n < 40; n++) simulation.advance()
  const [x, y, z] = [...(simulation.populations()[0]!.columns.position as Float32Array)].map((c) => c / size)
  expect(y).toBeLessThan(0.2)
  expect(Math.hypot(x!, z!)).toBeLessThan(0.45)
}) // prettier-ignore
