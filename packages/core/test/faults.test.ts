/** Faults that were found from outside, each at values it was not found with. */
import { createMachine } from '@tangle/kernels'
import { createSimulation, type Mesh, type Simulation } from '../src/index.ts'
import {
  ASSET,
  acting,
  all,
  asset,
  box,
  burst,
  column,
  points,
  runTo,
  scene,
  shotOf,
  sphere,
  start,
} from './help.ts'

const keys = (...values: unknown[][]) => ({ keys: values })
const part = (values: number[], k: number): number[] => values.filter((_, i) => i % 3 === k)

/** A level sheet of n × n quads about the origin, of a size. */
function sheet(n: number, size: number): Mesh {
  const positions: number[] = []
  const triangles: number[] = []
  for (let i = 0; i <= n; i++)
    for (let k = 0; k <= n; k++) positions.push((i / n - 0.5) * size, 0, (k / n - 0.5) * size)
  for (let i = 0; i < n; i++)
    for (let k = 0; k < n; k++) {
      const a = i * (n + 1) + k
      triangles.push(a, a + 1, a + n + 2, a, a + n + 2, a + n + 1)
    }
  return { positions: new Float32Array(positions), triangles: new Uint32Array(triangles) }
}

describe('colliders that deform by noise hold what is on them', () => {
  test.each([
    [0.02, 1, 24, 2],
    [0.05, 4, 30, 3],
    [0.4, 40, 25, 2],
  ])(
    'grains of %p m on a moving sheet of %p m, %p frames a second, %p substeps',
    (radius, size, rate, substeps) => {
      const shot = shotOf(
        {
          particle: { radius },
          births: [
            burst({
              kind: 'region',
              size: [size * 0.7, size * 0.1, size * 0.7],
              middle: [0, size * 0.15, 0],
              amount: { burst: 600, at: 1 },
            }),
          ],
          influences: [
            acting('gravity', { strength: size / 4 }),
            acting('collide', { mesh: 'box', side: 'either', bounce: 0 }),
          ],
        },
        {
          frames: { first: 1, last: 60, rate },
          quality: { substeps },
          meshes: [
            {
              id: 'box',
              source: { asset: ASSET },
              place: { position: [keys([1, 0], [40, size * 0.1]), 0, 0] },
              deform: [{ id: 'n', kind: 'noise', amount: size * 0.03, scale: size * 0.3 }],
            },
          ],
        },
      )
      const simulation = runTo(start(shot, sheet(24, size)), 40)
      const [x, y, z] = [0, 1, 2].map((k) => part(column(simulation, 'position'), k)) as [
        number[],
        number[],
        number[],
      ]
      // over the sheet nobody is below it by more than it waves
      const below = y.filter(
        (height, i) =>
          height < -size * 0.05 &&
          Math.abs(x[i]! - size * 0.1) < size * 0.45 &&
          Math.abs(z[i]!) < size * 0.45,
      )
      expect(below).toHaveLength(0)
      expect(y.filter((height) => Math.abs(height) < size * 0.08).length).toBeGreaterThan(300)
    },
  )

  test('and balls keep in what is in them', () => {
    for (const [size, radius] of [
      [1, 0.03],
      [20, 0.5],
    ] as const) {
      const shot = shotOf(
        {
          particle: { radius },
          births: [burst({ kind: 'volume', amount: { burst: 300, at: 1 }, margin: radius * 2 })],
          influences: [
            acting('gravity', { strength: size / 2 }),
            acting('collide', { mesh: 'box', side: 'inside', bounce: 0.2 }),
          ],
        },
        {
          meshes: [
            {
              id: 'box',
              source: { asset: ASSET },
              place: { scale: [size, size, size] },
              deform: [{ id: 'n', kind: 'noise', amount: size * 0.04, scale: size * 0.5 }],
            },
          ],
        },
      )
      const simulation = runTo(start(shot, sphere(24)), 30)
      const position = column(simulation, 'position')
      const out = part(position, 0).filter(
        (_, i) => Math.hypot(...position.slice(i * 3, i * 3 + 3)) > size * 1.1,
      )
      expect(out).toHaveLength(0)
    }
  })
})

test('Stay leaves alone who is out of its reach, at any distance', () => {
  for (const away of [0.3, 2.6, 17]) {
    const shot = shotOf(
      {
        births: [all('a')],
        influences: [acting('stay', { mesh: 'box' })],
      },
      {
        meshes: [
          { id: 'box', source: { asset: ASSET } },
          { id: 'a', source: { asset: asset(1) }, place: { position: [away, 0, 0] } },
        ],
      },
    )
    const mesh = points(...Array.from({ length: 50 }, (_, i) => [0.5, (i / 50 - 0.5) * 0.4, 0]))
    const simulation = start(shot, new Map([[ASSET, box()], [asset(1), mesh]])) // prettier-ignore
    const before = column(simulation, 'position')
    const { within } = shot.populations[0]!.influences[0]! as unknown as { within?: number }
    runTo(simulation, 4)
    if (away > (within ?? 0)) expect(column(simulation, 'position')).toEqual(before)
  }
})

test.each([1, 2, 5, 7])(
  'births by a keyed rate are the whole part of ∫ rate dt, with %p substeps',
  (substeps) => {
    const rate = keys([1, 0, 'linear'], [25, 4800, 'linear'], [49, 0])
    for (const fps of [24, 30]) {
      const shot = shotOf(
        { births: [burst({ amount: { rate } })] },
        { quality: { substeps }, frames: { first: 1, last: 60, rate: fps } },
      )
      const simulation = start(shot)
      for (const [frame, share] of [
        [7, 1 / 16],
        [13, 1 / 4],
        [25, 1],
        [37, 2 - 1 / 4],
        [49, 2],
      ] as const) {
        runTo(simulation, frame)
        // half of 24 frames times the peak, by frames of 1/fps
        expect(
          Math.abs(simulation.measures().populations[0]!.alive - (share * 2400 * 24) / fps),
        ).toBeLessThanOrEqual(1)
      }
    }
  },
)

describe('Mutual acts on both of a pair', () => {
  const clump = (near: number, far: number, most: number, seed: number, size = 1): Simulation => {
    const places = Array.from({ length: 300 }, (_, i) => [
      Math.sin(i * 12.9 + seed) * size,
      Math.sin(i * 78.2 + seed) * size,
      Math.sin(i * 37.7 + seed) * size,
    ])
    return scene(
      [points(...places)],
      {
        particle: { radius: 0.01 * size },
        influences: [
          acting('mutual', { near: near * size, far: far * size, neighbours: most, strength: 2 * size }),
        ],
      },
      { substeps: 2 },
      { seed },
    )
  }
  test.each([
    [0.1, 0.8, 4, 1, 1],
    [0.2, 1.2, 12, 9, 1],
    [0.1, 0.8, 6, 3, 30],
  ])('near %p, far %p, %p neighbours, seed %p, size %p: the middle rests', (near, far, most, seed, size) => {
    const simulation = clump(near, far, most, seed, size)
    const middle = () =>
      [0, 1, 2].map((k) => part(column(simulation, 'position'), k).reduce((a, b) => a + b, 0) / 300)
    const before = middle()
    runTo(simulation, 120)
    const velocity = column(simulation, 'velocity')
    const speeds = part(velocity, 0).map((_, i) => Math.hypot(...velocity.slice(i * 3, i * 3 + 3)))
    // they move, their middle does not
    expect(Math.max(...speeds)).toBeGreaterThan(0.1 * size)
    middle().forEach((x, k) => expect(Math.abs(x - before[k]!)).toBeLessThan(2e-4 * size))
  })
})

test.each([1, 2, 5, 7])('Blend is at its goal on its last key, with %p substeps', (substeps) => {
  for (const [last, rate] of [
    [12, 24],
    [20, 30],
  ] as const) {
    const shot = shotOf(
      {
        births: [burst({ amount: { burst: 200, at: 1 } })],
        goals: [{ id: 'g', kind: 'surface', mesh: 'there' }],
        influences: [acting('blend', { goal: 'g', strength: keys([1, 0], [last, 1]) })],
      },
      {
        quality: { substeps },
        frames: { first: 1, last: 60, rate },
        meshes: [
          { id: 'box', source: { asset: ASSET } },
          {
            id: 'there',
            source: { asset: ASSET },
            place: { position: [3, 1, 0], rotation: [0, keys([1, 0], [60, 200]), 0] },
          },
        ],
      },
    )
    const simulation = runTo(start(shot), last)
    const { median, most } = simulation.measures().populations[0]!.goals[0]!
    expect(median).toBeLessThan(1e-5)
    expect(most).toBeLessThan(1e-4)
  }
})

test.each([
  [1, 24, 40],
  [3, 24, 90],
  [4, 30, 200],
])(
  'Settle goes along exactly with a goal that turns and ripples, with %p substeps, %p/s, %p° in 60 frames',
  (substeps, rate, degrees) => {
    const shot = shotOf(
      {
        births: [burst({ amount: { burst: 200, at: 1 } })],
        goals: [{ id: 'g', kind: 'surface', mesh: 'there' }],
        influences: [
          acting('arrive', { goal: 'g', speed: 4 }),
          acting('settle', { goal: 'g', within: 0.2 }),
          acting('wind', { speed: 3 }),
        ],
      },
      {
        quality: { substeps },
        frames: { first: 1, last: 120, rate },
        meshes: [
          { id: 'box', source: { asset: ASSET } },
          {
            id: 'there',
            source: { asset: ASSET },
            place: {
              position: [1.5, 0, 0],
              rotation: [0, keys([1, 0], [61, degrees], [121, degrees * 2]), 0],
            },
            deform: [
              { id: 'r', kind: 'ripple', amount: 0.05, wavelength: 0.6, speed: 0.7, direction: [0, 1, 0] },
            ],
          },
        ],
      },
    )
    const simulation = runTo(start(shot), 110)
    const { median, high } = simulation.measures().populations[0]!.goals[0]!
    expect(median).toBeLessThan(1e-4)
    expect(high).toBeLessThan(1e-3)
  },
)

test('keys of a whole vector are split part by part; what cannot be is said with what to write', () => {
  const shot = shotOf({
    births: [burst()],
    influences: [acting('gravity', { direction: keys([1, [0, -1, 0]], [20, [1, 0, 0], 'hold']) })],
  })
  expect(shot.populations[0]!.influences[0]!.direction).toEqual([
    keys([1, 0], [20, 1, 'hold']),
    keys([1, -1], [20, 0, 'hold']),
    keys([1, 0], [20, 0, 'hold']),
  ])
  expect(() => shotOf({ influences: [acting('gravity', { direction: keys([1, 0]) })] })).toThrow(
    /direction.*three numbers/,
  )
})

test('a rotor that turns far in a substep is a check that says so and mends it', () => {
  const spun = (degrees: number, substeps: number) =>
    shotOf(
      { births: [burst()], influences: [acting('collide', { mesh: 'box' })] },
      {
        quality: { substeps },
        meshes: [
          { id: 'box', source: { asset: ASSET }, place: { rotation: [0, keys([1, 0], [25, degrees]), 0] } },
        ],
      },
    )
  const checks = async (degrees: number, substeps: number) => {
    const { checkShot } = await import('../src/index.ts')
    return checkShot(spun(degrees, substeps), new Map()).filter((one) => /turn/i.test(one.title + one.text))
  }
  return Promise.all([checks(24 * 90, 1), checks(24 * 90, 8), checks(24 * 5, 1)]).then(
    ([fast, fine, slow]) => {
      expect(fast).toHaveLength(1)
      const [edit] = fast![0]!.mend!.edits
      expect(edit!.path).toEqual(['quality'])
      expect(edit!.value).toMatchObject({ level: 'own', iterations: 4 })
      expect((edit!.value as { substeps: number }).substeps).toBeGreaterThanOrEqual(5)
      expect([fine, slow]).toEqual([[], []])
    },
  )
})

test('a number beyond what memory holds is refused with what to do, and the heap is whole again', () => {
  const machine = createMachine()
  // of the 4 GiB only half a one is left
  machine.heap.allocate(3.4 * 2 ** 30)
  const shot = shotOf({ births: [burst({ amount: { burst: 5_000_000, at: 1 } })] })
  expect(() => createSimulation(machine, shot, new Map([[ASSET, box()]]))).toThrow(/particle|memory/i)
  const small = createSimulation(createMachine(), shotOf({ births: [burst()] }), new Map([[ASSET, box()]]))
  expect(small.measures().populations[0]!.alive).toBe(1000)
})
