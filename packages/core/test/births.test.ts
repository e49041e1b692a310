import { createMachine } from '@tangle/kernels'
import { createSimulation, meshFacts, type Mesh, type Shot } from '../src/index.ts'
import { acting, ASSET, box, burst, column, runTo, shotOf, start } from './help.ts'

const aliveAt = (shot: Shot, frame: number): number => runTo(start(shot), frame).populations()[0]!.count

test('a rate gives exactly rate × time, evenly in time, between its frames and up to its cap', () => {
  const rate = (amount: object): Shot => shotOf({ births: [burst({ amount: { rate: 1000, ...amount } })] })
  expect(aliveAt(rate({}), 25)).toBe(1000)
  expect(aliveAt(rate({ from: 13, to: 25 }), 100)).toBe(500)
  expect(aliveAt(rate({ cap: 77 }), 60)).toBe(77)
  expect(
    aliveAt(
      rate({
        rate: {
          keys: [
            [1, 0],
            [25, 1000],
          ],
        },
      }),
      25,
    ),
  ).toBe(500)
  const ages = column(runTo(start(rate({})), 25), 'age').sort((a, b) => a - b)
  ages.forEach((age, k) => expect(age).toBeCloseTo(k / 1000, 4))
})

test('a burst stands where it was born at its frame, and only then starts to fall', () => {
  const shot = shotOf({ births: [burst({ amount: { burst: 10, at: 5 } })], influences: [acting('gravity')] })
  expect(aliveAt(shot, 4)).toBe(0)
  const simulation = runTo(start(shot), 5)
  expect(new Set(column(simulation, 'velocity'))).toEqual(new Set([0]))
  const from = column(simulation, 'position')
  const to = column(runTo(simulation, 29), 'position')
  expect(from[1]! - to[1]!).toBeCloseTo(9.80665 / 2, 4)
})

test('lifespan: 10 ± 3 frames are all gone after 13, none before 7', () => {
  const shot = shotOf({ particle: { radius: 0.01, lifespan: { mean: 10, spread: 3 } }, births: [burst()] })
  expect(aliveAt(shot, 7)).toBe(1000)
  expect(aliveAt(shot, 11)).toBeGreaterThan(400)
  expect(aliveAt(shot, 11)).toBeLessThan(600)
  expect(aliveAt(shot, 14)).toBe(0)
})

test('vertices: all of them, each once, in world space', () => {
  const shot = shotOf(
    { births: [burst({ kind: 'vertices', amount: { burst: 'all', at: 1 } })] },
    {
      meshes: [
        {
          id: 'box',
          source: { asset: ASSET },
          place: { position: [10, 0, 0], rotation: [0, 90, 0], scale: [2, 1, 1] },
        },
      ],
    },
  )
  const p = column(start(shot), 'position')
  expect(p.length).toBe(24)
  const spots = new Set(
    Array.from({ length: 8 }, (_, i) =>
      p
        .slice(i * 3, i * 3 + 3)
        .map((x) => x.toFixed(4))
        .join(),
    ),
  )
  expect(spots.size).toBe(8)
  expect(Math.max(...p.filter((_, i) => i % 3 === 2))).toBeCloseTo(1, 5)
  expect(Math.max(...p.filter((_, i) => i % 3 === 0))).toBeCloseTo(10.5, 5)
})

test('volume: random points lie inside and fill evenly; a grid keeps its spacing and margin', () => {
  const inside = (more: object) =>
    column(start(shotOf({ births: [burst({ kind: 'volume', ...more })] }), box(2, 1, 1)), 'position')
  const random = inside({ amount: { burst: 4000, at: 1 } })
  for (let i = 0; i < 4000; i++) {
    expect(Math.abs(random[i * 3]!)).toBeLessThanOrEqual(1.0001)
    expect(Math.abs(random[i * 3 + 1]!)).toBeLessThanOrEqual(0.5001)
  }
  const left = random.filter((x, i) => i % 3 === 0 && x < 0).length
  expect(Math.abs(left - 2000)).toBeLessThan(4 * Math.sqrt(1000)) // four standard deviations
  const grid = inside({ amount: { burst: 'all', at: 1 }, fill: 'grid', spacing: 0.1, margin: 0.12 })
  // 2 × 1 × 1 m less the margin on each side
  expect(grid.length / 3).toBe(18 * 8 * 8)
})

test.each([0.003, 1, 400])(
  'even points on a box of %d m, long, of one sheet and of ten that lie in one another',
  (size) => {
    const even = (mesh: Mesh, count: number): number[] => {
      const shot = shotOf({ births: [burst({ amount: { burst: count, at: 1 }, scatter: 'even' })] })
      const p = column(start(shot, mesh), 'position')
      expect(p.length).toBe(count * 3)
      return p
    }
    const long = box(size, size / 3, 4 * size)
    const area = 2 * size ** 2 * (1 / 3 + 4 + 4 / 3)
    const p = even(long, 700)
    let apart = Infinity
    for (let i = 0; i < p.length; i += 3)
      for (let j = 0; j < i; j += 3)
        apart = Math.min(apart, Math.hypot(p[i]! - p[j]!, p[i + 1]! - p[j + 1]!, p[i + 2]! - p[j + 2]!))
    expect(apart / (2 * Math.sqrt(area / (2 * Math.sqrt(3) * 700)))).toBeGreaterThan(0.6)
    // sheets that lie on one another count as much area as they have: all places that are asked for, on all sides
    const sheets = { ...long, triangles: Uint32Array.from({ length: 10 * long.triangles.length }, (_, k) => long.triangles[k % long.triangles.length]!) } // prettier-ignore
    const all = even(sheets, 3000)
    const onTop = all.filter((y, k) => k % 3 === 1 && Math.abs(y - size / 6) < 1e-4 * size).length
    expect(Math.abs(onTop / 3000 - (4 * size ** 2) / area)).toBeLessThan(0.03)
  },
)

test('scatter: even points keep as far apart as in the paper, clusters keep together, and each is its own', () => {
  const born = (more: object): number[] =>
    column(
      start(shotOf({ births: [burst({ amount: { burst: 600, at: 1 }, ...more })] }), box(1, 1, 1)),
      'position',
    )
  const nearest = (p: number[]): number[] =>
    Array.from({ length: 600 }, (_, i) => {
      let least = Infinity
      for (let j = 0; j < 600; j++) {
        if (j !== i)
          least = Math.min(least, Math.hypot(...[0, 1, 2].map((k) => p[i * 3 + k]! - p[j * 3 + k]!)))
      }
      return least
    })
  // Yuksel (2015), figure 6: sample elimination comes to 0.7 to 0.75 of the widest packing, 2r; random to about 0
  const widest = 2 * Math.sqrt(6 / (2 * Math.sqrt(3) * 600))
  const even = born({ scatter: 'even' })
  expect(Math.min(...nearest(even)) / widest).toBeGreaterThan(0.6)
  expect(Math.min(...nearest(born({}))) / widest).toBeLessThan(0.1)
  // each side has its sixth
  const sides = [0, 1, 2].flatMap((k) =>
    [-0.5, 0.5].map((at) => even.filter((x, i) => i % 3 === k && x === at).length),
  )
  sides.forEach((n) => expect(Math.abs(n - 100)).toBeLessThan(12))

  // a few, too, whatever the seed
  for (let few = 1; few <= 12; few++)
    for (let seed = 1; seed <= 6; seed++)
      expect(aliveAt(shotOf({ births: [burst({ amount: { burst: few, at: 1 }, scatter: 'even' })] }, { seed }), 1)).toBe(few) // prettier-ignore

  const clusters = born({ scatter: 'clusters', clusters: 3, clusterRadius: 0.1 })
  const heads: number[][] = []
  for (let i = 0; i < 600; i++) {
    const p = clusters.slice(i * 3, i * 3 + 3)
    if (!heads.some((head) => Math.hypot(...head.map((x, k) => x - p[k]!)) < 0.21)) heads.push(p)
  }
  expect(heads.length).toBeLessThanOrEqual(3)
})

test('setting out: along the normal, within a cone, and with the motion of the mesh', () => {
  const along = start(shotOf({ births: [burst({ speed: 2 })] }))
  const [p, v] = [column(along, 'position'), column(along, 'velocity')]
  for (let i = 0; i < 1000; i++) {
    const axis = [0, 1, 2].find((k) => Math.abs(Math.abs(p[i * 3 + k]!) - 0.5) < 1e-6)!
    expect(v[i * 3 + axis]! * Math.sign(p[i * 3 + axis]!)).toBeCloseTo(2, 5)
  }
  const coned = column(
    start(shotOf({ births: [burst({ aim: 'direction', direction: [0, 0, -4], cone: 30, speed: 1 })] })),
    'velocity',
  )
  const angles = coned.filter((_, i) => i % 3 === 2).map((z) => (Math.acos(-z) * 180) / Math.PI)
  expect(Math.max(...angles)).toBeLessThanOrEqual(30.01)
  expect(Math.max(...angles)).toBeGreaterThan(29)
  const moving = {
    id: 'box',
    source: { asset: ASSET },
    place: {
      position: [
        {
          keys: [
            [1, 0],
            [25, 6],
          ],
        },
        0,
        0,
      ],
    },
  }
  const carried = shotOf({ births: [burst({ inherit: 0.5, amount: { rate: 500 } })] }, { meshes: [moving] })
  const simulation = runTo(start(carried), 13)
  for (const vx of column(simulation, 'velocity').filter((_, i) => i % 3 === 0)) expect(vx).toBeCloseTo(3, 3)
})

test('a share computes the same particles as the whole, only fewer', () => {
  const shot = shotOf({
    births: [burst({ amount: { rate: 2000 }, speed: 1, cone: 40 })],
    influences: [acting('turbulence')],
  })
  const whole = runTo(start(shot), 20)
  const part = runTo(start(shot, box(), 0.2), 20)
  const ids = column(whole, 'id')
  const positions = column(whole, 'position')
  const partIds = column(part, 'id')
  const partPositions = column(part, 'position')
  expect(partIds.length / ids.length).toBeCloseTo(0.2, 1)
  partIds.forEach((id, i) => {
    const at = ids.indexOf(id)
    expect(partPositions.slice(i * 3, i * 3 + 3)).toEqual(positions.slice(at * 3, at * 3 + 3))
  })
})

test('a missing mesh is named, with what to do', () => {
  const shot = shotOf({ births: [burst()] })
  expect(() => createSimulation(createMachine(), shot, new Map())).toThrow(/"box" .* add its file again/)
  expect(meshFacts(box()).holes).toBe(0)
})

test.each([[1], [0.01], [40]])(
  'packed points at %d m: each has its twelve neighbours at the spacing, as many as fit',
  (size) => {
    const spacing = 0.1 * size
    const shot = shotOf({
      births: [burst({ kind: 'volume', fill: 'packed', spacing, amount: { burst: 'all', at: 1 } })],
      particle: { radius: 0.001 * size, lifespan: null },
    })
    shot.meshes[0]!.place.scale = [size, size, size]
    const at = column(runTo(start(shot), 1), 'position')
    const points = Array.from({ length: at.length / 3 }, (_, i) => at.slice(i * 3, i * 3 + 3))
    // balls packed most closely fill π/√18 of space (Hales, 2005); the box is a cube
    const share = (points.length * (4 / 3) * Math.PI * (spacing / 2) ** 3) / size ** 3
    expect(share).toBeGreaterThan(0.9 * (Math.PI / Math.sqrt(18)))
    expect(share).toBeLessThan(1.2 * (Math.PI / Math.sqrt(18)))
    const deep = points.filter((p) => p.every((x) => Math.abs(x) < 0.3 * size))
    expect(deep.length).toBeGreaterThan(200)
    for (const p of deep.slice(0, 200)) {
      const ways = points
        .map((q) => Math.hypot(...q.map((x, axis) => x - p[axis]!)) / spacing)
        .sort((a, b) => a - b)
      expect(ways[1]).toBeCloseTo(1, 4)
      expect(ways[12]).toBeCloseTo(1, 4)
      expect(ways[13]).toBeCloseTo(Math.SQRT2, 4)
    }
  },
)
