/** Heaps and stacks: rest, energy, angles of repose. */
import { MATERIALS, type Simulation } from '../src/index.ts'
import { firstOf, wide } from './wide.ts'
import { acting, ASSET, box, burst, column, points, runTo, scene, shotOf, sphere, start } from './help.ts'

const energyOf = (simulation: Simulation): number => {
  const { kinetic, potential, elastic } = simulation.measures().populations[0]!.energy
  return kinetic + potential + elastic
}
test('a stack of eight lies still: under 1 % of a radius in 10 s', () => {
  const r = 0.05
  const places = Array.from({ length: 8 }, (_, n) => [0, r * (2 * n + 1), 0])
  const simulation = scene(
    [points(...places)],
    {
      particle: { radius: r, density: 1000 },
      influences: [acting('gravity'), acting('floor'), acting('selfCollision')],
    },
    { iterations: 10 },
    { frames: { first: 1, last: 300, rate: 24 } },
  )
  runTo(simulation, 25)
  const from = column(simulation, 'position')
  runTo(simulation, 265)
  const moved = column(simulation, 'position').map((x, k) => Math.abs(x - from[k]!))
  expect(Math.max(...moved)).toBeLessThan(0.01 * r)
})

interface Blocks {
  bounce?: number
  size?: number
  seed?: number
  substeps?: number
}
/** A block of grains above the floor, of a size; gravity grows with it, so that it falls as long at any size. */
function block(influences: object[], { bounce = 0.3, size = 1, seed = 3, substeps = 10 }: Blocks = {}) {
  const shot = shotOf(
    {
      particle: { radius: 0.04 * size, density: 1000 },
      births: [burst({ kind: 'volume', fill: 'grid', spacing: 0.1 * size, amount: { burst: 'all', at: 1 } })],
      influences: [
        acting('gravity', { strength: size }),
        acting('floor', { height: -0.8 * size }),
        acting('selfCollision', { bounce }),
        ...influences,
      ],
    },
    { seed, quality: { substeps, iterations: 4 }, frames: { first: 1, last: 240, rate: 24 } },
  )
  return start(shot, box(0.6 * size, 0.6 * size, 0.6 * size))
}

const FALLS = [
  [0.6, 50, 9],
  [0.3, 0.01, 3],
  [1, 1, 3],
  [0, 1, 3],
  [0.3, 1, 77],
] as const
test.each(firstOf(3, FALLS))(
  'a heap that falls never gains energy: e = %p between grains, %p m, seed %p',
  (bounce, size, seed) => {
    const simulation = block([], { bounce, size, seed })
    const energies = [energyOf(simulation)]
    for (let frame = 2; frame <= 72; frame++) energies.push(energyOf(runTo(simulation, frame)))
    const lost = energies[0]! - Math.min(...energies)
    expect(lost).toBeGreaterThan(0)
    const rises = energies.slice(1).map((now, k) => (now - energies[k]!) / lost)
    expect(Math.max(...rises)).toBeLessThan(1e-3)
  },
)

test('what is linked never gets livelier than it fell, and every link that is gone is counted', () => {
  const simulation = block([acting('link', { to: 'faces', stiffness: 0.95, breaks: 0.01 })])
  const lively = (): number => {
    const { kinetic, potential } = simulation.measures().populations[0]!.energy
    return kinetic + potential
  }
  const first = lively()
  // what it falls in all: a metre or so of all that it weighs
  const lowest = first - 280
  runTo(simulation, 2)
  const { made } = simulation.measures().populations[0]!.links!
  expect(made).toBeGreaterThan(1000)
  for (let frame = 3; frame <= 72; frame++) {
    runTo(simulation, frame)
    expect(lively()).toBeLessThanOrEqual(first + 1e-3 * Math.abs(lowest))
  }
  const { alive, broken } = simulation.measures().populations[0]!.links!
  expect(alive + broken).toBe(made)
  expect(broken).toBeGreaterThan(0)
})

/** Slope of a heap, degrees: through the tops of rings about its middle. */
function slopeOf(simulation: Simulation): number {
  const [x, r] = [column(simulation, 'position'), column(simulation, 'radius')]
  const far = r.map((_, i) => Math.hypot(x[i * 3]!, x[i * 3 + 2]!))
  const edge = [...far].sort((a, b) => a - b)[Math.floor(far.length * 0.95)]!
  const rings = 14
  const tops = new Array<number>(rings).fill(0)
  far.forEach((d, i) => {
    const ring = Math.floor((d / edge) * rings)
    if (ring < rings) tops[ring] = Math.max(tops[ring]!, x[i * 3 + 1]! + r[i]!)
  })
  const inner = tops.slice(2, -2)
  const at = inner.map((_, n) => ((n + 2.5) / rings) * edge)
  const mean = (values: number[]): number => values.reduce((a, b) => a + b, 0) / values.length
  const [mx, my] = [mean(at), mean(inner)]
  const rise = mean(at.map((d, n) => (d - mx) * (inner[n]! - my))) / mean(at.map((d) => (d - mx) ** 2))
  return (Math.atan(-rise) * 180) / Math.PI
}

/** What is poured from a hand's height and left for three seconds. */
function heapOf(
  material: string,
  count: number,
  { radius = 0.01, seed = 3, substeps = 10, iterations = 5, gravity = radius / 0.01, sleeps = true } = {},
): Simulation {
  const { friction, sliding, sticky, bounce, density } = MATERIALS.find((one) => one.id === material)!
  const grip = { friction, sliding, sticky, bounce }
  const shot = shotOf(
    {
      particle: { radius: { mean: radius, spread: 0.25 }, density },
      births: [burst({ kind: 'volume', amount: { rate: 1000, cap: count } })],
      influences: [
        // at any size it falls as long, where nothing else is said
        acting('gravity', { strength: gravity }),
        acting('floor', { ...grip, friction: 0.8, sliding: 0.8 }),
        acting('selfCollision', grip),
        ...(sleeps ? [acting('sleep')] : []),
      ],
    },
    {
      seed,
      quality: { substeps, iterations },
      frames: { first: 1, last: 400, rate: 24 },
      meshes: [
        {
          id: 'box',
          source: { asset: ASSET },
          place: { position: [0, 45 * radius, 0], scale: [6 * radius, 6 * radius, 6 * radius] },
        },
      ],
    },
  )
  return runTo(start(shot, sphere(16)), Math.ceil((count / 1000) * 24) + 72)
}

const heightOf = (simulation: Simulation): number =>
  Math.max(...column(simulation, 'position').filter((_, k) => k % 3 === 1))

test('poured sand lies at its angle of repose, 34° to 3°, and stays there; wet snow stands higher', () => {
  // dry sand: 34° (handbook value; see MATERIALS)
  const sand = heapOf('dry-sand', 1500)
  const angle = (slopeOf(sand) + slopeOf(heapOf('dry-sand', 1500, { seed: 8 }))) / 2
  expect(angle).toBeGreaterThan(31)
  expect(angle).toBeLessThan(37)
  const { contact, overlaps } = sand.measures().populations[0]!
  expect(contact!.asleep).toBe(1500)
  expect(overlaps!.worst).toBeLessThan(0.1 * 0.01)
  const from = column(sand, 'position')
  runTo(sand, sand.frame + 24)
  expect(column(sand, 'position')).toEqual(from)
  // it stands in lumps, which have no one slope
  expect(heightOf(heapOf('wet-snow', 1200))).toBeGreaterThan(1.4 * heightOf(sand))
}, 120_000)

wide(
  'sand of 4 and 50 mm heaps at its angle from 4 substeps of 5 rounds on, and stands without sleep',
  () => {
    const angles = [
      [0.004, 41, 4],
      [0.05, 3, 10],
    ].map(([radius, seed, substeps]) => {
      const sand = heapOf('dry-sand', 1200, { radius, seed, substeps, gravity: 1, sleeps: false })
      const angle = slopeOf(sand)
      runTo(sand, sand.frame + 240)
      expect(Math.abs(slopeOf(sand) - angle)).toBeLessThan(1)
      // one heap is as steep as its grains happened to fall: common practice, no source
      expect(Math.abs(angle - 34)).toBeLessThan(6)
      return angle
    })
    expect(Math.abs(angles.reduce((a, b) => a + b, 0) / angles.length - 34)).toBeLessThan(3)
  },
  240_000,
)

describe('what sleeps wakes', () => {
  test.each([
    [0.05, 4],
    [0.05, 10],
    [0.02, 6],
    [1, 3],
  ])('when it is hit: balls of %p m, %p substeps', (r, substeps) => {
    const all = { Held: 1, Loose: 1 }
    const simulation = scene(
      [points([0, r, 0]), points([1.2 * r, 6 * r, 0])],
      {
        phases: ['Held', 'Loose'],
        particle: { radius: r, density: 1000 },
        births: ['a', 'b'].map((mesh) => ({
          id: mesh,
          kind: 'vertices',
          mesh,
          into: mesh === 'a' ? 'Loose' : 'Held',
          amount: { burst: 'all', at: 1 },
        })),
        // the other one hangs until the first has gone to sleep
        cues: [{ id: 'c', from: 'Held', to: 'Loose', when: { kind: 'after', frames: 47 } }],
        influences: [
          acting('gravity', { strength: 20 * r }),
          acting('sleep'),
          acting('selfCollision', { weights: all }),
          acting('floor', { bounce: 0.2, friction: 0, sliding: 0, weights: all }),
        ],
      },
      { substeps },
      { frames: { first: 1, last: 200, rate: 24 } },
    )
    const place = (): number[] => column(simulation, 'position').slice(0, 3)
    runTo(simulation, 46)
    expect(simulation.measures().populations[0]!.contact!.asleep).toBe(1)
    const resting = place()
    runTo(simulation, 66)
    // away from where it was hit
    expect(place()[0]!).toBeLessThan(resting[0]! - r / 4)
  })

  test('when its support goes', () => {
    const sinks = { height: { keys: [[1, 0], [48, 0], [60, -0.5]] } } // prettier-ignore
    const simulation = scene(
      [points([0, 0.05, 0])],
      {
        particle: { radius: 0.05, density: 1000 },
        influences: [acting('gravity'), acting('sleep'), acting('floor', sinks)],
      },
      { substeps: 4 },
    )
    runTo(simulation, 47)
    expect(simulation.measures().populations[0]!.contact!.asleep).toBe(1)
    runTo(simulation, 72)
    expect(column(simulation, 'position')[1]).toBeCloseTo(-0.45, 3)
  })
})

test('settled first: the first frame is at rest, nobody has aged, and it goes on as if it had always lain there', () => {
  const at = (settle: number) =>
    scene(
      [points([0, 0.4, 0], [0.02, 0.6, 0])],
      {
        particle: { radius: 0.05, density: 1000, lifespan: { mean: 20, spread: 0 } },
        influences: [acting('gravity'), acting('floor', { bounce: 0 }), acting('selfCollision')],
      },
      { substeps: 6, settle },
    )
  const [fresh, settled] = [at(0), at(200)]
  expect(column(fresh, 'position')[1]).toBeCloseTo(0.4, 5)
  expect(settled.frame).toBe(1)
  expect(column(settled, 'position')[1]).toBeCloseTo(0.05, 3)
  expect(column(settled, 'age')).toEqual([0, 0])
  const from = column(settled, 'position')
  runTo(settled, 15)
  column(settled, 'position').forEach((x, k) => expect(x).toBeCloseTo(from[k]!, 3))
  runTo(settled, 22)
  expect(settled.measures().populations[0]!.alive).toBe(0)
})
