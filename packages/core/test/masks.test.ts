import loadManifold from 'manifold-3d'
import { createMachine, type Machine } from '@tangle/kernels'
import { IcosahedronGeometry, PlaneGeometry, type BufferGeometry } from 'three'
import { clippedMesh, createScene, weld, type Body, type Masks, type Mesh } from '../src/index.ts'
import { areaAbove, clip } from '../src/geometry/clip.ts'
import { meshFacts } from '../src/geometry/mesh.ts'
import { ASSET, box, shotOf } from './help.ts'

const meshOf = (geometry: BufferGeometry): Mesh => {
  const positions = geometry.getAttribute('position').array as Float32Array
  const index = geometry.getIndex()
  return weld({
    positions,
    triangles: index
      ? Uint32Array.from(index.array)
      : Uint32Array.from({ length: positions.length / 3 }, (_, i) => i),
  })
}

type Loose = Record<string, unknown>
function masksOf(
  masks: Loose[],
  mesh: Mesh,
  more: Loose = {},
): { masks: Masks; body: Body; machine: Machine } {
  const machine = createMachine()
  const shot = shotOf({}, { masks, meshes: [{ id: 'box', source: { asset: ASSET }, detail: 1e4, ...more }] })
  const { bodies, masks: all } = createScene(machine, shot, new Map([[ASSET, mesh]]), new Set(['box']))
  return { masks: all, body: bodies.get('box')!, machine }
}
/** Values of the mask "m" at points of the world. */
function at(masks: Masks, machine: Machine, points: number[][], frame = 1): number[] {
  const { heap } = machine
  const [positions, out] = [heap.allocate(points.length * 12), heap.allocate(points.length * 4)]
  heap.f32(positions, points.length * 3).set(points.flat())
  masks.write('m', { count: points.length, positions, frame }, out)
  return Array.from(heap.f32(out, points.length))
}
/** Arrival at each vertex of a spread that is asked at every moment, from the frame at which it passes ½. */
function arrivals(masks: Masks, body: Body): Float64Array {
  // soft is 4 m around the front, so one frame tells the arrival of all that are within 2 m of it
  const values = masks.atVertices('m', body, 25)
  return Float64Array.from(values, (v) => 1 - (v - 0.5) * 4)
}
const spread = (more: Loose): Loose => ({
  id: 'm',
  kind: 'spread',
  mesh: 'box',
  speed: 1,
  start: 1,
  soft: 4,
  ragged: 0,
  ...more,
})

// The front of a point source is a circle: on a plane of radius |x − c|, on a sphere of the angle between.
test.each([
  ['a point', { points: [[0.013, 0.021, 0]] }, (x: number, y: number) => Math.hypot(x - 0.013, y - 0.021)],
  ['a ball', { ball: [0, 0, 0], radius: 0.3 }, (x: number, y: number) => Math.max(0, Math.hypot(x, y) - 0.3)],
  ['a line', { plane: [-0.5, 0, 0], normal: [1, 0, 0] }, (x: number) => Math.max(0, x + 0.5)],
])('on a plane the front of %s is within 2 %% of an edge of the exact one', (_, from, exact) => {
  const { masks, body } = masksOf([spread({ from })], meshOf(new PlaneGeometry(2, 2, 40, 40)))
  const edge = 0.05
  const p = body.mesh.positions
  arrivals(masks, body).forEach((arrival, v) =>
    expect(Math.abs(arrival - exact(p[v * 3]!, p[v * 3 + 1]!))).toBeLessThan(0.02 * edge),
  )
})

test('on a sphere the front is a circle: within 2 % of the radius, and finer triangles come closer', () => {
  const worst = [16, 32].map((detail) => {
    const { masks, body } = masksOf(
      [spread({ from: { points: [[0, 1, 0]] } })],
      meshOf(new IcosahedronGeometry(1, detail)),
    )
    const p = body.mesh.positions
    return arrivals(masks, body).reduce((most, arrival, v) => {
      const exact = Math.acos(Math.min(1, Math.max(-1, p[v * 3 + 1]!)))
      return exact > 2.9 ? most : Math.max(most, Math.abs(arrival - exact))
    }, 0)
  })
  expect(worst[0]).toBeLessThan(0.02)
  expect(worst[1]).toBeLessThan(worst[0]!)
})

test('a spread reaches pieces that hang in the air by the straight way across the gap', () => {
  const two: Mesh = (() => {
    const a = meshOf(new PlaneGeometry(1, 1, 10, 10))
    const b = a.positions.map((x, i) => (i % 3 === 0 ? x + 1.2 : x))
    const n = a.positions.length / 3
    return {
      positions: Float32Array.from([...a.positions, ...b]),
      triangles: Uint32Array.from([...a.triangles, ...a.triangles.map((t) => t + n)]),
    }
  })()
  const { masks, body } = masksOf([spread({ from: { plane: [-0.5, 0, 0], normal: [1, 0, 0] } })], two)
  const p = body.mesh.positions
  arrivals(masks, body).forEach((arrival, v) =>
    expect(Math.abs(arrival - p[v * 3]! - 0.5)).toBeLessThan(0.01),
  )
})

test('speed over time: the front has come ∫ speed dt, whatever frame is asked first', () => {
  const speed = { keys: [[1, 0, 'smooth'], [25, 2], [49, 2]] } // prettier-ignore
  const { masks, machine } = masksOf(
    [spread({ from: { points: [[-1, 0, 0]] }, speed, soft: 0.01 })],
    meshOf(new PlaneGeometry(4, 0.1, 160, 4)),
  )
  // ∫ over the first second of 2·(3t² − 2t³) is 1, the next half at 2 m/s adds 1
  for (const [frame, reach] of [
    [37, 2],
    [25, 1],
    [13, 2 * (0.125 - 0.03125)],
  ] as const) {
    // prettier-ignore
    const [ahead, behind] = at(masks, machine, [[reach - 1 + 0.02, 0, 0], [reach - 1 - 0.02, 0, 0]], frame) // prettier-ignore
    expect([ahead, behind]).toEqual([0, 1])
  }
})

test('ball, slab, box: full inside, ½ half-way through the soft edge, empty beyond; keys move them', () => {
  const x = { keys: [[1, 0], [11, 10]] } // prettier-ignore
  const cases: [Loose, number[]][] = [
    [{ kind: 'ball', centre: [x, 0, 0], radius: 1, soft: 2 }, [1, 0.5, 0]],
    [{ kind: 'slab', position: [1, 0, 0], direction: [3, 0, 0], soft: 2 }, [1, 0.5, 0]],
    [{ kind: 'box', centre: [0, 0, 0], size: [2, 2, 2], soft: 2 }, [1, 0.5, 0]],
  ]
  for (const [mask, expected] of cases) {
    const { masks, machine } = masksOf([{ id: 'm', ...mask }], box())
    expect(at(masks, machine, [[0.5, 0, 0], [2, 0, 0], [3.5, 0, 0]])).toEqual(expected) // prettier-ignore
  }
  const { masks, machine } = masksOf([{ id: 'm', ...cases[0]![0] }], box())
  expect(at(masks, machine, [[10, 0, 0]], 11)).toEqual([1])
})

test('inside: the signed distance to a mesh that moves and turns', () => {
  const place = { position: [{ keys: [[1, 0], [11, 5]] }, 0, 0], rotation: [0, 0, 45] } // prettier-ignore
  const { masks, machine } = masksOf([{ id: 'm', kind: 'inside', mesh: 'box', soft: 1 }], box(), { place })
  const corner = Math.SQRT1_2
  const points = [[5, 0, 0], [5 + corner - 0.01, 0, 0], [5 + corner + 0.5, 0, 0], [0, 0, 0]] // prettier-ignore
  const [middle, within, half, left] = at(masks, machine, points, 11)
  expect([middle, within, left]).toEqual([1, 1, 0])
  expect(half).toBeCloseTo(0.5, 5)
})

test('mix and front: by their formulas, and none refers to itself', () => {
  const a = { id: 'a', kind: 'slab', position: [0, 0, 0], direction: [1, 0, 0], soft: 1 }
  const b = { id: 'b', kind: 'slab', position: [0, 0, 0], direction: [0, 1, 0], soft: 1 }
  const point = [[0.5, 0.25, 0]]
  const value = (mix: Loose): number => {
    const { masks, machine } = masksOf([a, b, { id: 'm', of: 'a', ...mix }], box())
    return at(masks, machine, point)[0]!
  }
  const [u, v] = [0.5, 1 - (3 * 0.0625 - 2 * 0.015625)]
  expect(value({ kind: 'mix', how: 'multiply', with: 'b' })).toBeCloseTo(u * v, 6)
  expect(value({ kind: 'mix', how: 'subtract', with: 'b' })).toBe(0)
  expect(value({ kind: 'mix', how: 'max', with: 'b' })).toBeCloseTo(v, 6)
  expect(value({ kind: 'mix', how: 'min', with: 'b' })).toBeCloseTo(u, 6)
  expect(value({ kind: 'mix', how: 'invert', of: 'b' })).toBeCloseTo(1 - v, 6)
  expect(value({ kind: 'mix', how: 'remap', curve: [[0, 1], [1, 0.5]] })).toBeCloseTo(0.75, 6) // prettier-ignore
  expect(value({ kind: 'front', level: 0.5, width: 0.2 })).toBeCloseTo(1, 6)
  expect(() => shotOf({}, { masks: [{ id: 'm', kind: 'mix', how: 'invert', of: 'm' }] })).toThrow(
    /needs itself/,
  )
})

test.each([
  ['smooth', 1, 0.5, 0.05],
  ['smooth', 3, 0.5, 0.05],
  ['cells', 1, 0.52, 0.06],
])(
  'noise, %s in %d octaves: mean about ½ or by its pattern, spread wide, without a direction',
  (pattern, octaves, mean, tolerance) => {
    const { masks, machine } = masksOf([{ id: 'm', kind: 'noise', pattern, octaves, scale: 0.31 }], box())
    const points = Array.from({ length: 40 ** 3 }, (_, i) =>
      [i % 40, Math.floor(i / 40) % 40, Math.floor(i / 1600)].map((x) => x * 0.17),
    )
    const values = at(masks, machine, points)
    const middle = values.reduce((a, b) => a + b, 0) / values.length
    expect(Math.abs(middle - mean)).toBeLessThan(tolerance)
    const deviation = Math.sqrt(values.reduce((sum, v) => sum + (v - middle) ** 2, 0) / values.length)
    expect(deviation).toBeGreaterThan(0.1)
    expect(Math.min(...values.slice(0, 20000))).toBeLessThan(0.2)
    expect(Math.max(...values.slice(0, 20000))).toBeGreaterThan(0.8)
    // differences from one place to the next are as large along x as along z
    const along = (step: number): number =>
      values.slice(0, -step).reduce((sum, v, i) => sum + (values[i + step]! - v) ** 2, 0) / values.length
    expect(along(1600) / along(1)).toBeGreaterThan(0.8)
    expect(along(1600) / along(1)).toBeLessThan(1.25)
  },
)

test('painting: strokes add, erase and smooth where the brush was, on the side it was on', () => {
  const strokes = (...more: Loose[]) => [
    { brush: 'add', radius: 0.3, strength: 1, points: [[0, 0, 0.05]] },
    ...more,
  ]
  const thin = meshOf(new PlaneGeometry(2, 2, 40, 40))
  const n = thin.positions.length / 3
  const plate: Mesh = {
    positions: Float32Array.from([
      ...thin.positions.map((x, i) => (i % 3 === 2 ? 0.05 : x)),
      ...thin.positions,
    ]),
    // the other side faces down
    triangles: Uint32Array.from([...thin.triangles, ...thin.triangles.map((v) => v + n).reverse()]),
  }
  const values = (all: Loose[]): Float32Array => {
    const { masks, body } = masksOf([{ id: 'm', kind: 'painted', mesh: 'box', strokes: all }], plate)
    return masks.atVertices('m', body, 1)
  }
  const middle = Math.floor(n / 2)
  const once = values(strokes())
  expect(once[middle]).toBe(1)
  expect(once[0]).toBe(0)
  expect(once.subarray(n).every((v) => v === 0)).toBe(true)
  expect(values(strokes({ brush: 'erase', radius: 0.3, strength: 1, points: [[0, 0, 0.05]] }))[middle]).toBe(
    0,
  )
  // a pen adds as much as it is pressed
  const pressed = { brush: 'add', radius: 0.2, strength: 0.8, points: [[-0.5, 0, 0.05], [0.5, 0, 0.05]], pressures: [0.25, 1] } // prettier-ignore
  const by = values([pressed])
  const at = (x: number): number => by[once.findIndex((_, v) => Math.hypot(plate.positions[v * 3]! - x, plate.positions[v * 3 + 1]!) < 0.01)]! // prettier-ignore
  expect(at(-0.5)).toBeCloseTo(0.2, 5)
  expect(at(0.5)).toBeCloseTo(0.8, 5)
  const smooth = values(strokes({ brush: 'smooth', radius: 0.5, strength: 1, points: [[0, 0, 0.05]] }))
  expect(smooth[middle]).toBeLessThan(1)
  expect(smooth[middle]).toBeGreaterThan(0.9)
})

test('clip: both parts together have the area of the whole, and each is what the level says', async () => {
  const mesh = meshOf(new IcosahedronGeometry(1, 12))
  const height = Float32Array.from(
    { length: mesh.positions.length / 3 },
    (_, v) => mesh.positions[v * 3 + 1]!,
  )
  const whole = meshFacts(mesh).area
  for (const level of [-0.7, 0, 0.31, 2]) {
    const [below, above] = [clip(mesh, height, level), clip(mesh, height, level, true)].map((part) =>
      part.triangles.length ? meshFacts(part).area : 0,
    ) as [number, number]
    expect((below + above) / whole).toBeCloseTo(1, 6)
    expect(areaAbove(mesh.positions, mesh.triangles, height, level) / whole).toBeCloseTo(above / whole, 6)
    // Archimedes: a zone of a sphere has the area 2πrh; the mesh lies a little inside it
    expect(above).toBeCloseTo(2 * Math.PI * Math.max(0, 1 - level), 1)
  }
})

test('an eaten mesh stays watertight at every moment, by manifold-3d, also crumbled', async () => {
  const wasm = await loadManifold()
  wasm.setup()
  for (const frame of [2, 8, 20, 40]) {
    const { masks, body } = masksOf(
      [
        spread({ from: { points: [[0, 1, 0]] }, ragged: 0.8, raggedScale: 0.4, soft: 0.2 }),
        { id: 'noise', kind: 'noise', scale: 0.2 },
      ],
      meshOf(new IcosahedronGeometry(1, 16)),
    )
    const eaten = { mask: 'm', level: 0.5, thickness: 0.05, crumble: 0.03, crumbleMask: 'noise' }
    const { positions, triangles } = clippedMesh(body, eaten, masks, frame)
    const solid = new wasm.Manifold(
      new wasm.Mesh({ numProp: 3, vertProperties: positions, triVerts: triangles }),
    )
    expect([frame, solid.status()]).toEqual([frame, 'NoError'])
    expect(solid.isEmpty()).toBe(false)
    solid.delete()
  }
})
