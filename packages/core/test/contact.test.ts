/** Contact with meshes and planes, against closed forms. */
import { createMachine } from '@tangle/kernels'
import { createSimulation, weld, type Mesh } from '../src/index.ts'
import { acting, ASSET, box, burst, column, runTo, shotOf, sphere, start } from './help.ts'

const G = 9.80665 // m/s², CGPM 1901

/** One triangle's corner, far below: where a single particle is born. */
const pointAt = (x: number, y: number, z: number): Mesh =>
  weld({ positions: new Float32Array([x, y, z]), triangles: new Uint32Array() })
const OTHER = `sha256:${'1'.repeat(64)}`
const one = (more = {}) => ({
  id: 'b',
  kind: 'vertices',
  mesh: 'point',
  into: 'Loose',
  amount: { burst: 'all', at: 1 },
  ...more,
})
/** Particles at given places, and a mesh to hit. */
function scene(points: Mesh, target: Mesh, population: object, quality = {}, place = {}) {
  const shot = shotOf(population as never, {
    quality: { substeps: 4, ...quality },
    meshes: [
      { id: 'box', source: { asset: ASSET }, place },
      { id: 'point', source: { asset: OTHER } },
    ],
  })
  return start(
    shot,
    new Map([
      [ASSET, target],
      [OTHER, points],
    ]),
  )
}

test.each([0.5, 0.8, 1])('bounces of e = %d rise to e²h, again and again', (e) => {
  const drop = 1.5
  const simulation = scene(pointAt(0, 0.5 + 0.05 + drop, 0), box(4, 1, 4), {
    particle: { radius: 0.05 },
    births: [one()],
    influences: [acting('gravity'), acting('collide', { mesh: 'box', bounce: e, friction: 0, sliding: 0 })],
  })
  const heights: number[] = []
  let [before, now] = [0, drop]
  for (let frame = 2; frame <= 200; frame++) {
    runTo(simulation, frame)
    const next = column(simulation, 'position')[1]! - 0.55
    // the top of the parabola through three frames
    if (now > before && now >= next && frame > 3)
      heights.push(now + (next - before) ** 2 / (8 * (2 * now - before - next)))
    ;[before, now] = [now, next]
  }
  const wanted = [1, 2, 3].map((n) => drop * e ** (2 * n))
  wanted.forEach((height, n) => expect(heights[n]! / height).toBeCloseTo(1, 2))
})

describe('a slope of 30°', () => {
  const slope = { rotation: [0, 0, 30] }
  /** How far it has slid after a second, and how fast it goes. */
  function slide(friction: number, sliding: number) {
    const [s, c] = [Math.sin(Math.PI / 6), Math.cos(Math.PI / 6)]
    const simulation = scene(
      pointAt(-s * 0.55, c * 0.55, 0),
      box(20, 1, 4),
      {
        particle: { radius: 0.05 },
        births: [one({ inherit: 0 })],
        influences: [acting('gravity'), acting('collide', { mesh: 'box', bounce: 0, friction, sliding })],
      },
      {},
      slope,
    )
    const from = column(simulation, 'position')
    runTo(simulation, 25)
    const to = column(simulation, 'position')
    const v = column(simulation, 'velocity')
    return { way: Math.hypot(to[0]! - from[0]!, to[1]! - from[1]!), speed: Math.hypot(v[0]!, v[1]!) }
  }
  const limit = Math.tan(Math.PI / 6)
  test('holds just below tan θ = μ, and gives way just above', () => {
    expect(slide(limit + 0.001, 0.3).way).toBeLessThan(1e-5)
    expect(slide(limit - 0.001, 0.3).way).toBeGreaterThan(0.1)
  })
  test('then slides with g(sin θ − μ cos θ)', () => {
    const a = G * (Math.sin(Math.PI / 6) - 0.3 * Math.cos(Math.PI / 6))
    const { way, speed } = slide(0.5, 0.3)
    expect(speed / a).toBeCloseTo(1, 3)
    expect(way / (a / 2)).toBeCloseTo(1, 3)
  })
})

test('a thin closed box at 60 m/s loses none of thousands in 300 frames, standing, turning or shrinking', () => {
  const keyed = (keys: number[][]) => ({ keys })
  const moving = {
    rotation: [
      0,
      keyed([
        [1, 0],
        [300, 400],
      ]),
      keyed([
        [1, 0],
        [300, 300],
      ]),
    ],
    position: [
      keyed([
        [1, 0],
        [150, 3],
        [300, 0],
      ]),
      0,
      0,
    ],
  }
  const shrinking = {
    scale: [
      1,
      keyed([
        [1, 1],
        [300, 0.6],
      ]),
      1,
    ],
  }
  for (const place of [{}, moving, shrinking]) {
    const shot = shotOf(
      {
        particle: { radius: 0.01 },
        births: [
          {
            id: 'b',
            kind: 'volume',
            mesh: 'box',
            into: 'Loose',
            amount: { burst: 600, at: 1 },
            margin: 0.05,
            speed: 60,
            speedSpread: 1,
            cone: 180,
          },
        ],
        influences: [
          acting('gravity'),
          acting('collide', {
            mesh: 'box',
            side: 'inside',
            bounce: 1,
            friction: 0,
            sliding: 0,
            deflection: 20,
          }),
        ],
      },
      {
        quality: { substeps: 1 },
        frames: { first: 1, last: 300, rate: 24 },
        meshes: [{ id: 'box', source: { asset: ASSET }, place }],
      },
    )
    const simulation = createSimulation(createMachine(), shot, new Map([[ASSET, box(2, 1, 1)]]))
    runTo(simulation, 300)
    const { inside } = simulation.measures().populations[0]!.contact!
    expect(inside).toBe(0)
    simulation.dispose()
  }
})

test('a ball rests on its radius, on a face, an edge and in a corner; a thin sheet holds it from either side', () => {
  const sheet = weld({
    positions: new Float32Array([-2, 0, -2, 2, 0, -2, 2, 0, 2, -2, 0, 2]),
    triangles: new Uint32Array([0, 1, 2, 0, 2, 3]),
  })
  for (const side of [1, -1]) {
    const simulation = scene(pointAt(0.3, side, 0.2), sheet, {
      particle: { radius: 0.05 },
      births: [one()],
      influences: [
        acting('gravity', { strength: side }),
        acting('collide', { mesh: 'box', side: 'either', bounce: 0 }),
      ],
    })
    runTo(simulation, 48)
    expect(column(simulation, 'position')[1]).toBeCloseTo(side * 0.05, 5)
    expect(column(simulation, 'velocity')[1]).toBeCloseTo(0, 6)
  }
})

test('who starts inside comes out to the nearest place at the speed that is asked, or stays and is counted', () => {
  const inside = (more: object) =>
    scene(pointAt(0.1, 0.2, 0), box(), {
      particle: { radius: 0.05 },
      births: [one()],
      influences: [acting('collide', { mesh: 'box', ...more })],
    })
  const out = inside({ out: 0.6 })
  expect(out.measures().populations[0]!.contact!.inside).toBe(1)
  runTo(out, 5)
  expect(column(out, 'position')[1]).toBeCloseTo(0.2 + (0.6 * 4) / 24, 4)
  runTo(out, 40)
  expect(column(out, 'position')[1]).toBeCloseTo(0.55, 4)
  expect(out.measures().populations[0]!.contact!.inside).toBe(0)
  const stays = runTo(inside({ inside: 'stay' }), 40)
  expect(column(stays, 'position')[1]).toBeCloseTo(0.2, 5)
  expect(stays.measures().populations[0]!.contact!.inside).toBe(1)
})

test('a moving mesh carries what lies on it by friction, and sweeps up what it meets', () => {
  const keys = (to: number) => ({
    keys: [
      [1, 0],
      [49, to],
    ],
  })
  const carried = scene(
    pointAt(0, 0.55, 0),
    box(4, 1, 4),
    {
      particle: { radius: 0.05 },
      births: [one({ inherit: 0 })],
      influences: [acting('gravity'), acting('collide', { mesh: 'box', friction: 0.8, sliding: 0.8 })],
    },
    {},
    { position: [keys(1), 0, 0] },
  )
  runTo(carried, 49)
  // it slides until it is as fast: ½v²/μg behind
  expect(column(carried, 'position')[0]).toBeCloseTo(1 - 0.5 ** 2 / (2 * 0.8 * G), 3)
  const swept = scene(
    pointAt(1, 0, 0),
    sphere(24),
    {
      particle: { radius: 0.05 },
      births: [one()],
      influences: [acting('collide', { mesh: 'box', bounce: 0 })],
    },
    { substeps: 1 },
    {
      position: [
        {
          keys: [
            [1, -1.2],
            [25, 38.8],
          ],
        },
        0,
        0,
      ],
    },
  )
  runTo(swept, 25)
  // 40 m/s, 1.7 m a substep: it is not passed over
  expect(column(swept, 'position')[0]).toBeGreaterThan(38)
})

test('who is born on the very surface comes off it on its own side, by its radius', () => {
  for (const [side, sign] of [
    ['outside', 1],
    ['inside', -1],
  ] as const) {
    const shot = shotOf({
      births: [burst({ amount: { burst: 600, at: 1 } })],
      influences: [acting('collide', { mesh: 'box', side, bounce: 0 })],
    })
    const simulation = runTo(start(shot, box()), 8)
    const x = column(simulation, 'position')
    for (let i = 0; i < x.length; i += 3) {
      const out = Math.max(...x.slice(i, i + 3).map(Math.abs)) - 0.5
      // near an edge the nearest place is on the other face, no nearer than the radius
      expect(sign * out).toBeGreaterThan(0.0069)
    }
    expect(simulation.measures().populations[0]!.contact!.inside).toBe(0)
  }
})

test('the first test by a field of distances changes nothing: a few, who are tested without it, go the same ways', () => {
  const shot = shotOf(
    {
      births: [burst({ kind: 'region', size: [6, 6, 6], middle: [0, 0, 0], amount: { burst: 3000, at: 1 }, cone: 180, speed: 12 })], // prettier-ignore
      influences: [acting('gravity'), acting('collide', { mesh: 'box', bounce: 0.7, deflection: 20 })],
    },
    {
      meshes: [
        {
          id: 'box',
          source: { asset: ASSET },
          place: { rotation: [0, { keys: [[1, 0], [40, 300]] }, 20], position: [{ keys: [[1, 0], [40, 2]] }, 0, 0] }, // prettier-ignore
        },
      ],
    },
  )
  const ways = (share: number) => {
    const { columns } = runTo(start(shot, sphere(20), share), 20).populations()[0]!
    const { position } = columns as Record<string, Float32Array>
    return new Map(Array.from(columns.id!, (id, i) => [id, Array.from(position!.slice(i * 3, i * 3 + 3))]))
  }
  const [all, few] = [ways(1), ways(0.2)]
  expect(few.size).toBeGreaterThan(400)
  for (const [id, place] of few) expect(all.get(id)).toEqual(place)
})
