/** What particles do to one another, and to points, surfaces and whirls about them. */
import type { Arguments, RangeKernel } from '@tangle/kernels'
import { random } from '../src/math/random.ts'
import { buildGrid, crowdOf } from '../src/state/neighbours.ts'
import { floats, type Columns } from '../src/state/columns.ts'
import type { Mesh } from '../src/index.ts'
import { acting, box, burst, column, runTo, shotOf, start } from './help.ts'
import { machine, particles } from './crowd.ts'

type Loose = Record<string, unknown>
/** Runs a kernel with amount 1 for all and a grid; returns the acceleration. */
function accelerated<K extends RangeKernel>(
  kernel: K,
  columns: Columns,
  reach: number,
  rest: Omit<Arguments<K>, 'amount' | 'cells' | 'own'>,
): number[] {
  const { heap } = machine
  const amount = heap.allocate(columns.count * 4)
  heap.f32(amount, columns.count).fill(1)
  const grid = buildGrid(machine, crowdOf(columns), reach, 24)
  machine.run(kernel, columns.count, { amount, cells: grid.at, own: 1, ...rest } as never)
  grid.free()
  return [...floats(columns, 'acceleration')]
}

describe('flock, as Reynolds (1987, 1999) states the rules; worked by hand', () => {
  // 0 heads along x; 1 is ahead on its right, 2 behind, 3 too far away
  const columns = (): Columns =>
    particles([0, 0, 0, 0.3, 0, 0.4, -0.4, 0, 0, 3, 0, 0], [1, 0, 0, 0, 2, 0, 0, 0, 3, 9, 9, 9])
  const forces = (view: number, s: number, a: number, c: number): number[] => {
    const p = columns()
    const { position, startPosition, velocity, acceleration, damping, stiffness } = p.at
    const motion = { position, startPosition, velocity, acceleration, damping, stiffness }
    return accelerated('flock', p, 1, {
      ...motion,
      reach: 1,
      separate: 0.8,
      most: 8,
      view,
      s,
      a,
      c,
      sFactor: 0,
      aFactor: 0,
      cFactor: 0,
    }).slice(0, 3)
  }
  test.each([
    // away from 1 at 0.5 m and 2 at 0.4 m, each by S/r − 1
    ['separation', -1, [1, 0, 0], [-0.6 * 0.6 + 1, 0, -0.8 * 0.6]],
    // the mean of (0, 2, 0) and (0, 0, 3)
    ['alignment', -1, [0, 1, 0], [0, 1, 1.5]],
    // the mean of (0.3, 0, 0.4) and (−0.4, 0, 0)
    ['cohesion', -1, [0, 0, 1], [-0.05, 0, 0.2]],
    ['field of view, ahead only', 0, [0, 0, 1], [0.3, 0, 0.4]],
  ] as [string, number, number[], number[]][])('%s', (_, view, [s, a, c], expected) => {
    forces(view, s!, a!, c!).forEach((x, axis) => expect(x).toBeCloseTo(expected[axis]!, 5))
  })
})

describe('avoiding by time to collision', () => {
  /** E(τ) = e^(−τ/τ₀)/τ² with τ from |x + v·τ| = R: the law of Karamouzas, Skinner, Guy (2014). */
  function energy(x: number[], v: number[], reach: number, horizon: number): number {
    const dot = (a: number[], b: number[]): number => a.reduce((sum, one, i) => sum + one * b[i]!, 0)
    const [a, b, c] = [dot(v, v), -dot(x, v), dot(x, x) - reach * reach]
    const tau = (b - Math.sqrt(b * b - a * c)) / a
    return Math.exp(-tau / horizon) / tau ** 2
  }
  test('the push is minus the slope of the published energy', () => {
    for (let k = 0; k < 40; k++) {
      const draw = (n: number): number => random(7, k * 10 + n, 1)
      // x from j to i, v of i relative to j: on a course to collide, but not head-on
      const x = [2 + draw(0), 0.4 * draw(1), 0.3 + 0.3 * draw(2)]
      const v = [-1 - draw(3), 0.2 * draw(4), 0]
      const pair = machine.heap.allocate(24)
      const out = machine.heap.allocate(24)
      machine.heap.f32(pair, 6).set([...x.map((one) => -one), ...v])
      machine.call('pushOf', { pair, reach: 1.2, horizon: 3, out })
      const step = 1e-5
      const exact = machine.heap.f32(pair, 6)
      const [fx, fv] = [[...exact.slice(0, 3)].map((one) => -one), [...exact.slice(3)]]
      for (let axis = 0; axis < 3; axis++) {
        const moved = (d: number): number[] => fx.map((one, i) => (i === axis ? one + d : one))
        const slope = (energy(moved(step), fv, 1.2, 3) - energy(moved(-step), fv, 1.2, 3)) / (2 * step)
        expect(machine.heap.f64(out, 3)[axis]).toBeCloseTo(-slope, 4)
      }
    }
  })

  const ASSETS = ['0', '1', '2', '3'].map((digit) => `sha256:${digit.repeat(64)}`)
  /** Two groups that walk to where the other one comes from, at 1.3 m/s; x of either is ∓`away`. */
  function meet(mesh: Mesh, away: number, birth: Loose, avoid: Loose = {}) {
    const sides = [
      { id: 'west', x: -away },
      { id: 'east', x: away },
    ]
    const shot = shotOf(
      {
        phases: ['east', 'west'],
        particle: { radius: 0.2, density: 80 },
        births: sides.map(
          ({ id, x }) =>
          burst({ id, mesh: id, into: x < 0 ? 'east' : 'west', aim: 'direction', direction: [-x, 0, 0], speed: 1.3, ...birth }), // prettier-ignore
        ),
        goals: sides.map(({ id }) => ({ id, kind: mesh.triangles.length ? 'surface' : 'vertices', mesh: id, pairing: 'order', direction: [0, 0, 1] })), // prettier-ignore
        influences: [
          ...sides.map(({ id }) => acting('arrive', { id, goal: id, speed: 1.3, slowing: 0.65, weights: { [id]: 1 } })), // prettier-ignore
          acting('avoid', { moves: 'level', weights: { east: 1, west: 1 }, ...avoid }),
        ],
      },
      { meshes: sides.map(({ id, x }, k) => ({ id, source: { asset: ASSETS[k] }, place: { position: [x, 0, 0] } })) }, // prettier-ignore
    )
    return start(shot, new Map(ASSETS.map((asset) => [asset, mesh])))
  }

  test('two that meet head-on pass without touching, each as the other', () => {
    const point: Mesh = { positions: new Float32Array(3), triangles: new Uint32Array(0) }
    const run = meet(point, 3, { kind: 'vertices', amount: { burst: 'all', at: 1 } }, { aside: 0 })
    let nearest = Infinity
    for (let frame = 2; frame < 240; frame++) {
      const x = column(runTo(run, frame), 'position')
      nearest = Math.min(nearest, Math.hypot(x[0]! - x[3]!, x[2]! - x[5]!))
      for (const axis of [0, 2]) expect(x[axis]! + x[axis + 3]!).toBeCloseTo(0, 4)
    }
    expect(nearest).toBeGreaterThan(0.4)
    expect(column(run, 'position')[0]).toBeCloseTo(3, 1)
  })

  test('two crowds that walk through one another: less than one pair in a thousand overlaps, ever, and they arrive', () => {
    const plane: Mesh = { positions: Float32Array.from([-4, 0, -4, 4, 0, -4, 4, 0, 4, -4, 0, 4]), triangles: Uint32Array.from([0, 2, 1, 0, 3, 2]) } // prettier-ignore
    const run = meet(plane, 6, { scatter: 'even', amount: { burst: 100, at: 1 } })
    let [worst, touching] = [0, 0]
    for (let frame = 10; frame <= 360; frame += 10) {
      const overlaps = runTo(run, frame).measures().populations[0]!.overlaps!
      worst = Math.max(worst, overlaps.share)
      touching = Math.max(touching, overlaps.touching)
    }
    expect(worst).toBeLessThan(0.001)
    expect(touching).toBeLessThan(20)
    const x = column(run, 'position').filter((_, k) => k % 3 === 0)
    expect(x.filter((one, i) => (i < 100 ? one > 0 : one < 0)).length).toBeGreaterThan(180)
  })

  test('who makes straight for a wall goes round it, and who stands in the way of one that comes makes room', () => {
    const point: Mesh = { positions: new Float32Array(3), triangles: new Uint32Array(0) }
    const walkers = (wall: object, births: object[], influences: object[]) => {
      const spots = [-4, 4].map((x, k) => ({
        id: `s${k}`,
        source: { asset: ASSETS[k] },
        place: { position: [x, 0, 0] },
      }))
      const shot = shotOf(
        {
          phases: ['Loose'],
          particle: { radius: 0.2 },
          births,
          goals: [{ id: 'there', kind: 'vertices', mesh: 's1' }],
          influences: [acting('avoid', { mesh: 'wall', reach: 4, moves: 'level' }), ...influences],
        },
        { meshes: [...spots, { id: 'wall', source: { asset: ASSETS[2] }, ...wall }] },
      )
      return start(
        shot,
        new Map([...ASSETS.map((asset) => [asset, point] as const), [ASSETS[2]!, box(0.5, 2, 3)]]),
      )
    }
    /** How far outside the wall, metres, that stands at x and is 0.5 by 3 m. */
    const outside = ([px, , pz]: number[], x = 0): number =>
      Math.hypot(Math.max(0, Math.abs(px! - x) - 0.25), Math.max(0, Math.abs(pz!) - 1.5))
    const born = burst({ kind: 'vertices', mesh: 's0', amount: { burst: 'all', at: 1 } })
    const walk = walkers({}, [born], [acting('arrive', { goal: 'there', speed: 1.4 })])
    for (let frame = 2; frame <= 360; frame++)
      expect(outside(column(runTo(walk, frame), 'position'))).toBeGreaterThan(0.199)
    expect(column(walk, 'position')[0]).toBeCloseTo(4, 1)

    // it comes from the right at 1 m/s to where one stands still
    const stand = walkers({ place: { position: [{ keys: [[1, -1], [145, -7]] }, 0, 0.4] } }, [born], [acting('drag', { strength: 0.5 })]) // prettier-ignore
    for (let frame = 2; frame <= 145; frame++) {
      const [x, y, z] = column(runTo(stand, frame), 'position') as [number, number, number]
      expect(outside([x, y, z - 0.4], -1 - (frame - 1) / 24)).toBeGreaterThan(0.199)
    }
  })
})

describe('forces', () => {
  test('attraction by 1/r² keeps an orbit: period, distance and energy after Kepler', () => {
    // GM = 8 m³/s², from 2 m at 1.5 m/s across: a = 1/(2/r − v²/GM), T = 2π√(a³/GM), e from the apsides
    const [gm, r, v] = [8, 2, 1.5]
    const a = 1 / (2 / r - (v * v) / gm)
    const period = 2 * Math.PI * Math.sqrt(a ** 3 / gm)
    const rate = 240 / period
    const shot = shotOf(
      {
        births: [burst({ kind: 'vertices', amount: { burst: 'all', at: 1 }, aim: 'direction', direction: [0, 0, 1], speed: v })], // prettier-ignore
        influences: [acting('attract', { to: 'point', point: [0, 0, 0], falloff: 'square', strength: gm, core: 0.01 })], // prettier-ignore
      },
      { frames: { first: 1, last: 1000, rate }, quality: { substeps: 4 } },
    )
    const run = start(shot, { positions: Float32Array.from([r, 0, 0]), triangles: new Uint32Array(0) })
    let nearest = Infinity
    for (let frame = 2; frame <= 241; frame++) {
      const x = column(runTo(run, frame), 'position')
      nearest = Math.min(nearest, Math.hypot(...x))
    }
    expect(nearest).toBeCloseTo(2 * a - r, 3)
    // three rounds: back where it was, with the energy that it had
    const back = column(runTo(run, 721), 'position')
    expect(Math.hypot(back[0]! - r, back[1]!, back[2]!)).toBeLessThan(0.02)
    const speed = Math.hypot(...column(run, 'velocity'))
    expect(speed ** 2 / 2 - gm / Math.hypot(...back)).toBeCloseTo(v ** 2 / 2 - gm / r, 3)
  })

  test('a pair that attracts and repels comes to rest at the inner radius; with friction their velocities meet', () => {
    const pair: Mesh = {
      positions: Float32Array.from([-0.15, 0, 0, 0.15, 0, 0]),
      triangles: new Uint32Array(0),
    }
    const of = (...influences: Loose[]) => shotOf({ births: [burst({ kind: 'vertices', amount: { burst: 'all', at: 1 } })], influences }) // prettier-ignore
    const rest = runTo(start(of(acting('mutual', { near: 0.2, far: 0.5 }), acting('drag', { strength: 4 })), pair), 230) // prettier-ignore
    const x = column(rest, 'position')
    expect(x[3]! - x[0]!).toBeCloseTo(0.2, 2)
    expect(x[3]! + x[0]!).toBeCloseTo(0, 5)
    const p = particles([0, 0, 0, 0.1, 0, 0], [1, 0, 0, 3, 0, 0])
    const { position, acceleration, damping } = p.at
    expect(accelerated('calm', p, 0.5, { position, acceleration, damping, reach: 0.5, most: 8 })).toEqual([
      3, 0, 0, 1, 0, 0,
    ])
  })

  test('vortex: the speed of Rankine’s whirl inside and outside its core', () => {
    const at = (x: number): number => {
      const one: Mesh = { positions: Float32Array.from([x, 0, 0]), triangles: new Uint32Array(0) }
      const shot = shotOf({
        births: [burst({ kind: 'vertices', amount: { burst: 'all', at: 1 } })],
        influences: [acting('vortex', { speed: 0.2, core: 0.5, inward: 0, reach: 20, strength: 1000 })],
      })
      return -column(runTo(start(shot, one), 3), 'velocity')[2]!
    }
    expect(at(0.25)).toBeCloseTo(0.1, 3)
    expect(at(2)).toBeCloseTo(0.05, 3)
  })

  test('wander does not depend on the substeps; limits bound speed and turns', () => {
    const shot = (substeps: number, influences: Loose[], more: Loose = {}) =>
      shotOf({ births: [burst({ amount: { burst: 50, at: 1 }, ...more })], influences }, { quality: { substeps } }) // prettier-ignore
    const strayed = (substeps: number): number[] =>
      column(runTo(start(shot(substeps, [acting('wander', { strength: 4 })])), 49), 'position')
    const fine = strayed(16)
    strayed(2).forEach((x, k) => expect(Math.abs(x - fine[k]!)).toBeLessThan(0.02))

    const bounded = start(shot(2, [acting('wander', { strength: 50 }), acting('limits', { most: 2, least: 1, turn: 90 })], { speed: 1 })) // prettier-ignore
    let before = column(runTo(bounded, 2), 'velocity')
    for (let frame = 3; frame < 40; frame++) {
      const now = column(runTo(bounded, frame), 'velocity')
      for (let i = 0; i < 50; i++) {
        const [a, b] = [before.slice(i * 3, i * 3 + 3), now.slice(i * 3, i * 3 + 3)]
        const [sa, sb] = [Math.hypot(...a), Math.hypot(...b)]
        expect(sb).toBeGreaterThan(0.999)
        expect(sb).toBeLessThan(2.001)
        const cosine = a.reduce((sum, x, axis) => sum + x * b[axis]!, 0) / (sa * sb)
        expect(cosine).toBeGreaterThan(Math.cos((90 / 24 + 0.01) * (Math.PI / 180)))
      }
      before = now
    }
  })
})
