/** Shading of meshes that were split or cut: as they came. */
import { createMachine } from '@tangle/kernels'
import { createScene, creasedNormals, shadedBody, shadedRest, weld, type Mesh } from '../src/index.ts'
import { ASSET, box, shotOf } from './help.ts'
import { refine } from '../src/geometry/refine.ts'

/** A tube without ends, of `sides` sides about y: smooth round about if there are many. */
function tube(sides: number, size = 1): Mesh {
  const positions: number[] = []
  const triangles: number[] = []
  for (let k = 0; k < sides; k++) {
    const angle = (2 * Math.PI * k) / sides
    positions.push(
      Math.cos(angle) * size,
      0,
      -Math.sin(angle) * size,
      Math.cos(angle) * size,
      2 * size,
      -Math.sin(angle) * size,
    )
    const next = (k + 1) % sides
    triangles.push(k * 2, next * 2, next * 2 + 1, k * 2, next * 2 + 1, k * 2 + 1)
  }
  return weld({ positions: new Float32Array(positions), triangles: new Uint32Array(triangles) })
}

interface Drawn {
  positions: Float32Array
  normals: Float32Array
  triangles: Uint32Array
}
/** Greatest angle in degrees between the normals of a mesh and those that it should have. */
function worst(
  { positions, normals }: Drawn,
  expected: (x: number, y: number, z: number) => number[],
): number {
  let most = 0
  for (let v = 0; v < positions.length; v += 3) {
    const n = expected(positions[v]!, positions[v + 1]!, positions[v + 2]!)
    const dot = n[0]! * normals[v]! + n[1]! * normals[v + 1]! + n[2]! * normals[v + 2]!
    most = Math.max(most, (Math.acos(Math.min(1, Math.max(-1, dot))) * 180) / Math.PI)
  }
  return most
}
const sceneOf = (mesh: Mesh, more: object, rest: object = {}) => {
  const shot = shotOf({}, { meshes: [{ id: 'box', source: { asset: ASSET }, ...more }], ...rest })
  const ids = new Set(['box'])
  return createScene(createMachine(), shot, new Map([[ASSET, mesh]]), ids, ids)
}

test('normals of corners are the mean round a vertex, up to a crease', () => {
  const smooth = creasedNormals(tube(24))
  // of a regular tube the normals at the corners point straight outward
  const { positions, triangles } = tube(24)
  triangles.forEach((v, corner) => {
    const out = [positions[v * 3]!, 0, positions[v * 3 + 2]!]
    for (let k = 0; k < 3; k++) expect(smooth[corner * 3 + k]).toBeCloseTo(out[k]!, 2)
  })
  // a box keeps its edges: every corner has the normal of its own face
  const sharp = creasedNormals(box())
  for (let corner = 0; corner < sharp.length; corner += 3)
    expect(Array.from(sharp.slice(corner, corner + 3), Math.abs).sort()).toEqual([0, 0, 1])
})

test.each([
  [1, 12],
  [0.003, 24],
  [80, 16],
])(
  'of a size of %p m, a tube of %p sides that is split has the normals it had, along its length and round about',
  (size, sides) => {
    const mesh = tube(sides, size)
    const { bodies } = sceneOf(mesh, { detail: size * 0.07 })
    const body = bodies.get('box')!
    expect(body.mesh.positions.length).toBeGreaterThan(mesh.positions.length * 4)
    const drawn = shadedBody(body, 1)
    // between two corners the normals run evenly: at most the bend of a chord from the circle's own
    const off = worst(drawn, (x, _, z) => [x / Math.hypot(x, z), 0, z / Math.hypot(x, z)])
    expect(off).toBeLessThan(1.5)
    // nobody faces a way that none of its corners faces
    expect(Math.max(...drawn.normals.filter((_, k) => k % 3 === 1).map(Math.abs))).toBeLessThan(0.01)
  },
)

test('creases stay creases: a box that is split has six directions, and its edges are there twice', () => {
  const { bodies } = sceneOf(box(), { detail: 0.13 })
  const body = bodies.get('box')!
  const drawn = shadedBody(body, 1)
  const ways = new Set<string>()
  for (let v = 0; v < drawn.normals.length; v += 3)
    ways.add(Array.from(drawn.normals.slice(v, v + 3), (x) => Math.round(x)).join())
  expect(ways.size).toBe(6)
  expect(drawn.positions.length).toBeGreaterThan(body.mesh.positions.length)
  // every drawn vertex stands where the one it was stands
  drawn.vertices.forEach((v, k) =>
    expect(Array.from(drawn.positions.slice(k * 3, k * 3 + 3))).toEqual(
      Array.from(body.worldView(1).slice(v * 3, v * 3 + 3)),
    ),
  )
})

test.each([
  ['turned', { rotation: [0, 0, 90] }, (n: number[]) => [-n[1]!, n[0]!, n[2]!]],
  ['stretched', { scale: [1, 3, 1] }, (n: number[]) => n],
])('%s meshes have their normals along', (_, place, turned) => {
  const { bodies } = sceneOf(tube(32), { detail: 0.1, place })
  const drawn = shadedBody(bodies.get('box')!, 1)
  const round = place.rotation ? (x: number, y: number, z: number) => [0 * x, y / Math.hypot(y, z), z / Math.hypot(y, z)] : (x: number, _y: number, z: number) => [x / Math.hypot(x, z), 0, z / Math.hypot(x, z)] // prettier-ignore
  expect(turned([1, 0, 0])).toHaveLength(3)
  expect(worst(drawn, round)).toBeLessThan(1)
})

test('what ripples is shaded as it bends', () => {
  const deform = [{ id: 'r', kind: 'ripple', amount: 0.1, wavelength: 1, direction: [0, 1, 0] }]
  const { bodies } = sceneOf(tube(48), { detail: 0.05, deform })
  const body = bodies.get('box')!
  const drawn = shadedBody(body, 3)
  // the normals stand on the triangles they belong to: within what a triangle bends
  let most = 0
  for (let t = 0; t < drawn.triangles.length; t += 3) {
    const [a, b, c] = [0, 1, 2].map((k) => drawn.triangles[t + k]! * 3) as [number, number, number]
    const p = drawn.positions
    const [u, v] = [b, c].map((q) => [0, 1, 2].map((k) => p[q + k]! - p[a + k]!)) as [number[], number[]]
    const n = [u[1]! * v[2]! - u[2]! * v[1]!, u[2]! * v[0]! - u[0]! * v[2]!, u[0]! * v[1]! - u[1]! * v[0]!]
    const length = Math.hypot(...n)
    if (length < 1e-9) continue
    for (const q of [a, b, c]) {
      const dot = [0, 1, 2].reduce((sum, k) => sum + (n[k]! / length) * drawn.normals[q + k]!, 0)
      most = Math.max(most, (Math.acos(Math.min(1, dot)) * 180) / Math.PI)
    }
  }
  expect(most).toBeLessThan(25)
  expect(worst(drawn, (x, _, z) => [x / Math.hypot(x, z), 0, z / Math.hypot(x, z)])).toBeGreaterThan(5)
})

test('what a mask has left is shaded as the whole was, its wall inward and its rim flat', () => {
  const masks = [{ id: 'm', kind: 'slab', position: [0, 1, 0], direction: [0, -1, 0], soft: 0.5 }]
  const { bodies, masks: made } = sceneOf(
    tube(32),
    { detail: 0.08, eaten: { mask: 'm', level: 0.5, thickness: 0.05 } },
    { masks },
  )
  const drawn = shadedRest(bodies.get('box')!, made, 1)
  expect(drawn.triangles.length).toBeGreaterThan(300)
  let [outer, inner, rim] = [0, 0, 0]
  for (let v = 0; v < drawn.positions.length; v += 3) {
    const [x, , z] = drawn.positions.slice(v, v + 3) as unknown as [number, number, number]
    const [nx, ny, nz] = drawn.normals.slice(v, v + 3) as unknown as [number, number, number]
    const along = (x * nx + z * nz) / Math.hypot(x, z)
    if (Math.abs(ny) > 0.9) rim++
    else if (along > 0.99) outer++
    else if (along < -0.99) inner++
    else throw new Error(`a normal of ${nx} ${ny} ${nz} at ${x} ${z} belongs to neither side`)
  }
  expect([outer > 100, inner > 100, rim > 30]).toEqual([true, true, true])
})

test('a mesh that is split knows in which of its triangles each lies', () => {
  const mesh = box()
  const fine = refine(mesh, 0.2)
  expect(fine.splitFrom!.mesh).toBe(mesh)
  expect(fine.splitFrom!.triangles).toHaveLength(fine.triangles.length / 3)
  fine.splitFrom!.triangles.forEach((source, t) => {
    // on a box the plane of the source is the plane of the part
    const axis = [0, 1, 2].find(
      (k) =>
        new Set([0, 1, 2].map((c) => mesh.positions[mesh.triangles[source * 3 + c]! * 3 + k])).size === 1,
    )!
    const at = mesh.positions[mesh.triangles[source * 3]! * 3 + axis]!
    for (let c = 0; c < 3; c++)
      expect(fine.positions[fine.triangles[t * 3 + c]! * 3 + axis]).toBeCloseTo(at, 6)
  })
})
