import { createMachine } from '@tangle/kernels'
import fc from 'fast-check'
import {
  defaultsOf,
  derive,
  meshFacts,
  pieceFacts,
  readShot,
  sourceKey,
  FRACTURE,
  SHELL,
  type FractureSource,
  type Mesh,
  type Vector,
} from '../src/index.ts'
import { boxCell, clipCell, voronoiCells } from '../src/fracture/cells.ts'
import { fracture } from '../src/fracture/fracture.ts'
import { shellOf } from '../src/fracture/shell.ts'
import { massProperties } from '../src/geometry/pieces.ts'
import { buildTree, closestPoints } from '../src/geometry/tree.ts'
import { box, shotOf } from './help.ts'
import { brokenShot, manifold, solid } from './rigidHelp.ts'
import { firstOf } from './wide.ts'

const machine = createMachine()
const ONE: Vector = [1, 1, 1]
const source = (more: Partial<FractureSource>): FractureSource => ({
  ...(defaultsOf(FRACTURE) as unknown as FractureSource),
  mesh: 'box',
  ...more,
})
const broken = async (mesh: Mesh, more: Partial<FractureSource>): Promise<Mesh> =>
  fracture({ manifold: await manifold(), machine, density: null }, mesh, source(more))

/** Volume of a closed mesh by the divergence theorem, about the origin. */
function volumeOf({ positions: p, triangles }: Mesh): number {
  let sum = 0
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [0, 1, 2].map((k) => triangles[t + k]! * 3) as [number, number, number]
    sum +=
      p[a]! * (p[b + 1]! * p[c + 2]! - p[b + 2]! * p[c + 1]!) -
      p[a + 1]! * (p[b]! * p[c + 2]! - p[b + 2]! * p[c]!) +
      p[a + 2]! * (p[b]! * p[c + 1]! - p[b + 1]! * p[c]!)
  }
  return sum / 6
}
/** Half-edges of each piece without their twin. */
function areaOf({ positions, triangles }: Mesh, t: number): number {
  const [a, b, c] = [0, 1, 2].map((k) => positions.subarray(triangles[t * 3 + k]! * 3, triangles[t * 3 + k]! * 3 + 3)) as [Float32Array, Float32Array, Float32Array] // prettier-ignore
  const [u, v] = [b, c].map((p) => [p[0]! - a[0]!, p[1]! - a[1]!, p[2]! - a[2]!]) as [number[], number[]]
  return (
    Math.hypot(u[1]! * v[2]! - u[2]! * v[1]!, u[2]! * v[0]! - u[0]! * v[2]!, u[0]! * v[1]! - u[1]! * v[0]!) /
    2
  )
}
function openEdgesOf({ triangles, pieces }: Mesh): number {
  let open = 0
  for (let k = 0; k + 1 < pieces!.starts.length; k++) {
    const edges = new Set<string>()
    for (let c = pieces!.starts[k]! * 3; c < pieces!.starts[k + 1]! * 3; c++)
      edges.add(`${triangles[c]} ${triangles[c % 3 === 2 ? c - 2 : c + 1]}`)
    for (const edge of edges) if (!edges.has(edge.split(' ').reverse().join(' '))) open++
  }
  return open
}

describe('Voronoi cells', () => {
  const volumeOfCell = ({ vertices, faces }: ReturnType<typeof boxCell>): number =>
    volumeOf({
      positions: Float32Array.from(vertices.flat()),
      triangles: Uint32Array.from(
        faces.flatMap(({ loop }) => loop.slice(2).flatMap((_, k) => [loop[0]!, loop[k + 1]!, loop[k + 2]!])),
      ),
    })

  test('fill their box, whatever the seeds', () => {
    const point = fc.tuple(
      ...Array.from({ length: 3 }, () => fc.integer({ min: -90, max: 90 }).map((n) => n / 100)),
    )
    fc.assert(
      fc.property(
        fc.uniqueArray(point, { minLength: 1, maxLength: 24, selector: (p) => p.join() }),
        (seeds) => {
          const cells = [...voronoiCells(seeds as Vector[], [-1, -1, -1], [1, 1, 1])]
          const sum = cells.reduce((all, cell) => all + (cell ? volumeOfCell(cell) : 0), 0)
          expect(sum).toBeCloseTo(8, 4)
        },
      ),
      { numRuns: 60 },
    )
  })
  test('every point of a cell is nearest to its seed', () => {
    const seeds = Array.from({ length: 30 }, (_, k): Vector => [
      Math.sin(k * 12.9),
      Math.sin(k * 78.2),
      Math.sin(k * 37.7),
    ])
    ;[...voronoiCells(seeds, [-1, -1, -1], [1, 1, 1])].forEach((cell, k) => {
      for (const v of cell!.vertices) {
        const distances = seeds.map((s) => Math.hypot(s[0] - v[0], s[1] - v[1], s[2] - v[2]))
        expect(distances[k]! - Math.min(...distances)).toBeLessThan(1e-9)
      }
    })
  })
  test('a cut through an edge or a corner leaves a closed polyhedron', () => {
    for (const [normal, level] of [[[1, 1, 0], 0], [[1, 1, 1], 1], [[1, 0, 0], 1], [[1, 1, 0], 2]] as [Vector, number][]) {
      const cell = clipCell(boxCell([-1, -1, -1], [1, 1, 1]), normal, level, 7)!
      const edges = new Set(cell.faces.flatMap(({ loop }) => loop.map((v, k) => `${v} ${loop[(k + 1) % loop.length]}`)))
      for (const edge of edges) expect(edges).toContain(edge.split(' ').reverse().join(' '))
    }
    expect(clipCell(boxCell([-1, -1, -1], [1, 1, 1]), [1, 0, 0], -2, 7)).toBeNull()
  }) // prettier-ignore
})

describe('broken meshes', () => {
  const cases: [string, Partial<FractureSource>][] = [
    ['even', { pieces: 40 }],
    ['random', { pieces: 40, seeds: 'random' }],
    ['clusters', { pieces: 40, seeds: 'clusters', clusters: 3, spread: 0.2 }],
    ['a line', { pieces: 30, seeds: 'line', path: [[-0.4, 0, 0], [0.4, 0.1, 0]], spread: 0.2 }],
    ['points', { pieces: 30, seeds: 'points', path: [[0, 0.4, 0]], spread: 0.3 }],
    ['splinters', { pieces: 40, stretch: 6, along: [1, 1, 0] }],
    ['rough', { pieces: 12, rough: 0.01, roughScale: 0.1 }],
    ['one piece', { pieces: 1 }],
  ] // prettier-ignore
  test.each(cases)('seeds %s: pieces are closed and sum to the whole', async (_, more) => {
    const shapes = firstOf(2, [
      await solid((M) => M.sphere(0.5, 32).subtract(M.sphere(0.45, 32))),
      await solid((M) => M.cube([0.01, 0.004, 0.006], true)),
      await solid((M) => M.sphere(0.5, 32)),
      await solid((M) => M.cube([300, 20, 100], true)),
    ])
    for (const shape of shapes) {
      const size = Math.cbrt(Math.abs(volumeOf(shape)))
      const scaled = { ...more, ...(more.rough ? { rough: 0.02 * size, roughScale: 0.2 * size } : {}), ...(more.spread ? { spread: more.spread * size } : {}), ...(more.path ? { path: more.path.map((p) => p.map((x) => x * size) as Vector) } : {}) }
      const out = await broken(shape, scaled)
      expect(openEdgesOf(out)).toBe(0)
      const { volume } = pieceFacts(out, ONE)
      expect(Math.abs(volume / volumeOf(shape) - 1)).toBeLessThan(1e-6)
    }
  }) // prettier-ignore
  test('the seed decides, and nothing else: same in, same out', async () => {
    const shape = await solid((M) => M.sphere(0.5, 32))
    const [a, b, c] = [
      await broken(shape, { seed: 1 }),
      await broken(shape, { seed: 1 }),
      await broken(shape, { seed: 2 }),
    ]
    expect(a.positions).toEqual(b.positions)
    expect(a.triangles).toEqual(b.triangles)
    expect(c.positions).not.toEqual(a.positions)
  })
  test('shared faces: two halves of a cube share its section, with its moments', async () => {
    // two seeds on the x axis of a bar: the face between them is y × z whatever lies along x
    const out = await broken(box(2, 0.3, 0.5), { pieces: 2, seeds: 'line', path: [[-0.5, 0, 0], [0.5, 0, 0]], spread: 0.0001, seed: 4 })
    const { bonds } = out.pieces!
    expect(bonds.pairs).toEqual(Uint32Array.of(0, 1))
    expect(bonds.areas[0]).toBeCloseTo(0.15, 3)
    expect(Math.abs(bonds.normals[0]!)).toBeGreaterThan(0.999)
    // b·h³/12 about both axes
    expect(bonds.moments[0]).toBeCloseTo((0.5 * 0.3 ** 3) / 12, 4)
    expect(bonds.moments[1]).toBeCloseTo((0.3 * 0.5 ** 3) / 12, 4)
    // it bends most easily about z, and reaches half its height from there
    expect(Math.abs(bonds.axes[2]!)).toBeGreaterThan(0.999)
    expect(bonds.moments[2]).toBeCloseTo(0.15, 3)
    expect(bonds.moments[3]).toBeCloseTo(0.25, 3)
  }) // prettier-ignore
  test('faces that are shared are counted once and cover all that is broken', async () => {
    const out = await broken(await solid((M) => M.sphere(0.5, 48).subtract(M.sphere(0.45, 48))), { pieces: 60 })
    const { pieces } = out
    let inner = 0
    pieces!.inner.forEach((is, t) => {
      if (!is) return
      inner += areaOf(out, t)
    })
    const shared = pieces!.bonds.areas.reduce((sum, a) => sum + a, 0)
    expect(shared / (inner / 2)).toBeCloseTo(1, 2)
  }) // prettier-ignore
  test.each([
    ['a triangle is missing', box().triangles.slice(3), 1],
    ['a side is missing', box().triangles.slice(6), 1],
    ['two sides are missing', box().triangles.slice(6, 30), null],
    ['three sides are missing, that meet in a corner', box().triangles.slice(0, 18), null],
  ])('an open mesh is closed first: %s', async (_, triangles, whole) => {
    const out = await broken({ ...box(), triangles }, { pieces: 12 })
    expect(openEdgesOf(out)).toBe(0)
    const volume = massProperties(out, [1, 1, 1]).reduce((sum, one) => sum + one.volume, 0)
    if (whole === null) expect(volume).toBeGreaterThan(0.1)
    else expect(volume).toBeCloseTo(whole, 5)
    // lids look like what broke, but nothing is bonded there
    const { inner, bonds } = out.pieces!
    let area = 0
    inner.forEach((is, t) => (area += is ? areaOf(out, t) : 0))
    const lid = 6 - (triangles.length / 3) * 0.5
    if (whole !== null) expect(2 * bonds.areas.reduce((a, b) => a + b, 0) + lid).toBeCloseTo(area, 3)
  })
  test.each([
    [
      'a triangle',
      () => ({ positions: box().positions, triangles: box().triangles.slice(0, 3) }),
      /open: 3 open edges in 1 hole, and closing them makes no solid/,
    ],
    [
      'a sheet',
      () => ({ positions: box().positions, triangles: box().triangles.slice(0, 6) }),
      /open: 4 open edges in 1 hole, and closing them makes no solid/,
    ],
    ['inside out', () => ({ ...box(), triangles: box().triangles.toReversed() }), /inside out/],
    [
      'a set of points',
      () => ({ positions: new Float32Array(30), triangles: new Uint32Array(0) }),
      /no triangles/,
    ],
  ])('a mesh that is %s is refused with the reason', async (_, make, says) => {
    await expect(broken(make(), { pieces: 5 })).rejects.toThrow(says)
  })
})

describe('moments of inertia', () => {
  const inertiaOf = (out: Mesh) => massProperties(out, ONE)[0]!
  const sorted = (values: number[]): number[] => values.toSorted((a, b) => a - b)
  test('of box, ball and cylinder are those of the closed forms', async () => {
    const [x, y, z] = [0.2, 0.5, 1.1]
    const brick = inertiaOf(await broken(box(x, y, z), { pieces: 1 }))
    const m = x * y * z
    sorted(brick.inertia).forEach((i, k) => expect(i).toBeCloseTo(sorted([y * y + z * z, x * x + z * z, x * x + y * y].map((s) => (m * s) / 12))[k]!, 5))
    const ball = inertiaOf(await broken(await solid((M) => M.sphere(0.5, 256)), { pieces: 1 }))
    for (const i of ball.inertia) expect(i / (0.4 * ball.volume * 0.25)).toBeCloseTo(1, 3)
    const rod = inertiaOf(await broken(await solid((M) => M.cylinder(2, 0.3, 0.3, 256, true)), { pieces: 1 }))
    const expected = sorted([0.5 * 0.09, (3 * 0.09 + 4) / 12, (3 * 0.09 + 4) / 12])
    sorted(rod.inertia).forEach((i, k) => expect(i / rod.volume / expected[k]!).toBeCloseTo(1, 3))
  }) // prettier-ignore
  test('of a broken ball sum to that of the whole (Steiner)', async () => {
    const whole = await solid((M) => M.sphere(0.5, 64))
    const one = massProperties(await broken(whole, { pieces: 1 }), ONE)[0]!
    const many = massProperties(await broken(whole, { pieces: 50, seeds: 'random' }), ONE)
    // the trace of the inertia: twice ∫ r² dV, with r² of each centre on top
    const trace = many.reduce((sum, p) => sum + p.inertia[0] + p.inertia[1] + p.inertia[2] + 2 * p.volume * p.centre.reduce((s, c, k) => s + (c - one.centre[k]!) ** 2, 0), 0)
    expect(trace / (one.inertia[0] + one.inertia[1] + one.inertia[2])).toBeCloseTo(1, 6)
  }) // prettier-ignore
  test('go with the size of the place', async () => {
    const out = await broken(box(1, 1, 1), { pieces: 7, seeds: 'random' })
    const [small, large] = [massProperties(out, ONE), massProperties(out, [2, 3, -4])]
    const sum = (all: typeof small): number => all.reduce((s, { volume }) => s + volume, 0)
    expect(sum(large)).toBeCloseTo(24 * sum(small), 3)
    for (const { inertia } of large) for (const i of inertia) expect(i).toBeGreaterThan(0)
  })
})

describe('shells', () => {
  const shapes: [string, () => Promise<Mesh>, number][] = [
    ['a ball', () => solid((M) => M.sphere(0.5, 48)), 1],
    ['a cross, concave', () => solid((M) => M.cube([0.3, 1, 0.3], true).add(M.cube([1, 0.3, 0.3], true))), 1],
    ['a ball of 6 mm', () => solid((M) => M.sphere(0.003, 32)), 0.006],
    ['an open scan', async () => {
      const ball = await solid((M) => M.sphere(0.5, 48))
      return { ...ball, triangles: ball.triangles.slice(0, -60) }
    }, 1],
  ] // prettier-ignore
  test.each(shapes)('of %s: closed, at its gap, of its thickness', async (_, make, size) => {
    const mesh = await make()
    const [gap, thickness] = [0.02 * size, 0.05 * size]
    const tools = { manifold: await manifold(), machine }
    const shell = shellOf(tools, mesh, { mesh: 'x', gap, thickness, detail: 2.5 })
    const { openEdges, crowdedEdges } = meshFacts(shell)
    expect([openEdges, crowdedEdges]).toEqual([0, 0])
    const tree = buildTree(machine, mesh)
    const near = closestPoints(machine, tree, shell.positions)
    const distances = Array.from(near.distances).sort((a, b) => a - b)
    expect(distances[0]).toBeGreaterThan(0.95 * gap)
    expect(distances.at(-1)).toBeLessThan(gap + 1.6 * thickness)
    // a solid that library and we agree on: it does not fold over
    const { Manifold, Mesh: Soup } = tools.manifold
    const both = Manifold.ofMesh(
      new Soup({ numProp: 3, vertProperties: shell.positions, triVerts: shell.triangles }),
    )
    expect(both.volume() / volumeOf(shell)).toBeCloseTo(1, 5)
  })
  test('of a ball has the volume between two balls', async () => {
    const shell = shellOf({ manifold: await manifold(), machine }, await solid((M) => M.sphere(0.5, 96)), { mesh: 'x', gap: 0.02, thickness: 0.05, detail: 3 })
    expect(volumeOf(shell) / ((4 / 3) * Math.PI * (0.57 ** 3 - 0.52 ** 3))).toBeCloseTo(1, 1.5)
  }) // prettier-ignore
  test('a shell that is far too fine for its mesh is refused with what helps', async () => {
    const make = shellOf.bind(null, { manifold: await manifold(), machine }, box(100, 100, 100))
    expect(() => make({ mesh: 'x', gap: 0.01, thickness: 0.01, detail: 3 })).toThrow(
      /million points.*thicker shell/,
    )
  })
})

describe('meshes made of others in a shot', () => {
  test('stand where their mesh stands, and are made anew only when something of it changes', () => {
    const shot = brokenShot({ pieces: 5 }, {}, {}, { position: [1, 2, 3] })
    const key = sourceKey(shot.meshes[1]!.source, shot)
    const changed = (edit: (of: typeof shot) => void): string => {
      const next = structuredClone(shot)
      edit(next)
      return sourceKey(next.meshes[1]!.source, next)
    }
    expect(changed((s) => (s.meshes[0]!.place.position = [4, 4, 4]))).toBe(key)
    expect(changed((s) => (s.meshes[0]!.name = 'Other'))).toBe(key)
    // a database gives keys back in another order
    const turned = (s: typeof shot): void => {
      const { fracture } = s.meshes[1]!.source as { fracture: FractureSource }
      s.meshes[1]!.source = { fracture: Object.fromEntries(Object.entries(fracture).reverse()) as unknown as FractureSource }
    }
    expect(changed(turned)).toBe(key)
    expect(changed((s) => (s.meshes[0]!.place.scale = [2, 1, 1]))).not.toBe(key)
    expect(changed((s) => (s.meshes[0]!.source = { asset: `sha256:${'1'.repeat(64)}` }))).not.toBe(key)
    expect(changed((s) => Object.assign((s.meshes[1]!.source as { fracture: FractureSource }).fracture, { pieces: 6 }))).not.toBe(key)
  }) // prettier-ignore
  test('what is made of itself, or of nothing, is refused with its path', () => {
    const read = (meshes: unknown[]) => readShot({ ...shotOf({}), meshes, populations: [] })
    const of = (mesh: string, id: string) => ({ id, source: { fracture: { mesh } } })
    expect(read([of('b', 'a'), of('a', 'b')]).problems).toContainEqual({ path: 'meshes[0].source', message: expect.stringContaining('made of itself') as string })
    expect(read([of('gone', 'a')]).problems).toContainEqual({ path: 'meshes[0].source.fracture.mesh', message: expect.stringContaining('no mesh "gone"') as string })
    expect(read([{ id: 'a', source: { fracture: { mesh: 'a', pieces: 0 } } }]).problems![0]!.path).toBe('meshes[0].source.fracture.pieces')
  }) // prettier-ignore
  test('one that cannot be broken says which, and why', async () => {
    const shot = brokenShot({ pieces: 3 }, {})
    const open = { ...box(), triangles: box().triangles.slice(0, 6) }
    const meshes = new Map([[sourceKey(shot.meshes[0]!.source, shot), open]])
    const tools = { manifold: await manifold(), machine }
    expect(() => derive(tools, shot, shot.meshes[1]!, meshes)).toThrow(
      /broken: box can't be broken: it is open/,
    )
  })
})

test('what the interface writes for a broken mesh and for a shell is a document', () => {
  const meshes = [
    { id: 'a', source: { asset: `sha256:${'0'.repeat(64)}` } },
    { id: 'b', source: { fracture: { ...defaultsOf(FRACTURE), mesh: 'a' } } },
    { id: 'c', source: { shell: { ...defaultsOf(SHELL), mesh: 'b' } } },
  ]
  expect(readShot({ ...shotOf({}), meshes, populations: [] }).problems).toBeUndefined()
})
