/** Geometry against three-mesh-bvh on the Stanford bunny (open data, npm package "bunny"). */
import { createMachine } from '@tangle/kernels'
import bunny from 'bunny'
import jstat from 'jstat'
import { BufferAttribute, BufferGeometry, DoubleSide, Ray, Vector3 } from 'three'
import { MeshBVH } from 'three-mesh-bvh'
import { buildTree, closestPoints, meshFacts, weld, windingNumbers, type Mesh } from '../src/index.ts'
import { randoms } from '../src/math/random.ts'
import { box, burst, column, shotOf, start } from './help.ts'

const whole: Mesh = weld({
  positions: new Float32Array((bunny.positions as number[][]).flat()),
  triangles: new Uint32Array((bunny.cells as number[][]).flat()),
})
const machine = createMachine()

function bvhOf(mesh: Mesh): MeshBVH {
  const geometry = new BufferGeometry()
  geometry.setAttribute('position', new BufferAttribute(mesh.positions.slice(), 3))
  geometry.setIndex(new BufferAttribute(mesh.triangles.slice(), 1))
  return new MeshBVH(geometry)
}
function scatterIn(mesh: Mesh, count: number, grow: number): Float32Array {
  const { low, high } = meshFacts(mesh)
  return Float32Array.from({ length: count * 3 }, (_, i) => {
    const axis = i % 3
    const size = high[axis]! - low[axis]!
    return low[axis]! - grow * size + randoms(17, i, 2)[0] * size * (1 + 2 * grow)
  })
}

test('closest points are those of three-mesh-bvh', () => {
  const queries = scatterIn(whole, 2000, 0.5)
  const ours = closestPoints(machine, buildTree(machine, whole), queries)
  const bvh = bvhOf(whole)
  for (let i = 0; i < 2000; i++) {
    const target = { point: new Vector3(), distance: 0, faceIndex: 0 }
    bvh.closestPointToPoint(new Vector3(queries[i * 3], queries[i * 3 + 1], queries[i * 3 + 2]), target)
    expect(Math.abs(ours.distances[i]! - target.distance)).toBeLessThan(1e-5 * (1 + target.distance))
  }
})

/** Inside by majority of ray crossings in several directions; the bunny's own holes lie underneath. */
function insideByRays(bvh: MeshBVH, point: Vector3): boolean {
  const directions = [
    [0.2, 1, 0.1],
    [1, 0.8, 0.3],
    [-1, 0.7, 0.2],
    [0.1, 0.9, -1],
    [0.3, 0.8, 1],
  ]
  const votes = directions.filter((d) => {
    const ray = new Ray(point, new Vector3(...d).normalize())
    return bvh.raycast(ray, DoubleSide).length % 2 === 1
  })
  return votes.length >= 3
}

test('inside is what ray crossings say, and stays so with a tenth of the triangles taken out', () => {
  const queries = scatterIn(whole, 1500, 0.05)
  const holed: Mesh = {
    positions: whole.positions,
    triangles: whole.triangles.filter((_, i) => Math.floor(i / 3) % 10 !== 3),
  }
  const full = windingNumbers(machine, buildTree(machine, whole), queries)
  const open = windingNumbers(machine, buildTree(machine, holed), queries)
  const bvh = bvhOf(whole)
  const distances = closestPoints(machine, buildTree(machine, whole), queries).distances
  const thickness = (meshFacts(whole).high[1] - meshFacts(whole).low[1]) * 0.02
  let compared = 0
  for (let i = 0; i < 1500; i++) {
    if (distances[i]! < thickness) continue // a missing triangle shifts the surface itself
    compared++
    const inside = insideByRays(bvh, new Vector3(queries[i * 3], queries[i * 3 + 1], queries[i * 3 + 2]))
    expect([full[i]! > 0.5, open[i]! > 0.5]).toEqual([inside, inside])
  }
  expect(compared).toBeGreaterThan(900)
})

test('winding number of a closed box is 1 inside and 0 outside', () => {
  const [inside, outside] = windingNumbers(
    machine,
    buildTree(machine, box(2, 1, 1)),
    new Float32Array([0.7, 0.2, -0.3, 1.2, 0, 0]),
  )
  expect(inside).toBeCloseTo(1, 4)
  expect(outside).toBeCloseTo(0, 4)
})

test('facts: a closed box, and the hole of a box without a side', () => {
  const closed = meshFacts(box(2, 3, 4))
  expect(closed).toMatchObject({ vertices: 8, triangles: 12, openEdges: 0, holes: 0, low: [-1, -1.5, -2] })
  expect(closed.area).toBeCloseTo(2 * (6 + 8 + 12), 5)
  const sides = box(2, 3, 4)
  expect(meshFacts({ ...sides, triangles: sides.triangles.slice(6) })).toMatchObject({
    openEdges: 4,
    holes: 1,
  })
})

test('births on the surface are even by world area, also when the mesh is stretched (χ²)', () => {
  const count = 30000
  const shot = shotOf(
    { births: [burst({ amount: { burst: count, at: 1 } })] },
    {
      meshes: [
        {
          id: 'box',
          source: { asset: `sha256:${'0'.repeat(64)}` },
          place: { scale: [4, 1, 0.5], position: [1, 2, 3] },
        },
      ],
    },
  )
  const p = column(start(shot), 'position')
  // each side is cut into cells of ½ × ½ m in world units
  const cells = new Map<string, number>()
  for (let i = 0; i < count; i++) {
    const at = [(p[i * 3]! - 1) / 4, p[i * 3 + 1]! - 2, (p[i * 3 + 2]! - 3) / 0.5]
    const axis = at.findIndex((x) => Math.abs(Math.abs(x) - 0.5) < 1e-5)
    expect(axis).toBeGreaterThanOrEqual(0)
    const size = [4, 1, 0.5]
    const cell = at.map((x, k) =>
      k === axis ? Math.sign(x) : Math.min(Math.floor((x + 0.5) * size[k]! * 2), size[k]! * 2 - 1),
    )
    const key = `${axis}:${cell}`
    cells.set(key, (cells.get(key) ?? 0) + 1)
  }
  // 2 ends of 1 × 2 cells, 2 lids of 8 × 1, 2 sides of 8 × 2, a quarter of a square metre each
  expect(cells.size).toBe(2 * 2 + 2 * 8 + 2 * 16)
  const expected = count / cells.size
  let chi = 0
  for (const seen of cells.values()) chi += (seen - expected) ** 2 / expected
  const { chisquare } = jstat as unknown as { chisquare: { cdf(x: number, freedom: number): number } }
  const tail = 1 - chisquare.cdf(chi, cells.size - 1)
  expect(tail).toBeGreaterThan(0.001)
})
