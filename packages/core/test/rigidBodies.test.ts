import { createMachine, createMemory } from '@tangle/kernels'
import {
  createSimulation,
  massProperties,
  sourceKey,
  type Mesh,
  type Shot,
  type Vector,
} from '../src/index.ts'
import { rotate, type Quaternion } from '../src/math/quaternion.ts'
import { asset, box, sheet } from './help.ts'
import { brokenShot, meshesOf, simulate, solid } from './rigidHelp.ts'
import { firstOf } from './wide.ts'

type Loose = Record<string, unknown>
const G = 9.80665
const BELT = asset(7)
const OTHER = asset(5)
const gravity = { id: 'g', kind: 'gravity', weights: { Free: 1 } }
const body = (more: Loose = {}) => ({ id: 'r', kind: 'rigid', weights: { Free: 1 }, spinDamping: 0, ...more })
const floor = (more: Loose = {}) => ({ id: 'f', kind: 'floor', weights: { Free: 1 }, friction: 0.6, ...more })
const born = (more: Loose = {}) => ({
  births: [
    { id: 'b', kind: 'pieces', mesh: 'broken', into: 'Free', amount: { burst: 'all', at: 1 }, ...more },
  ],
})
const columnsOf = (simulation: Awaited<ReturnType<typeof simulate>>) => {
  const { count, columns } = simulation.populations()[0]!
  const at = (name: 'position' | 'velocity' | 'angularVelocity', i: number): Vector => {
    const values = columns[name] as Float32Array
    return [values[i * 3]!, values[i * 3 + 1]!, values[i * 3 + 2]!]
  }
  return { count, columns, at }
}
const run = (simulation: Awaited<ReturnType<typeof simulate>>, frames: number): void => {
  for (let n = 0; n < frames; n++) simulation.advance()
}

describe('pieces in flight', () => {
  test.each([[24, 1], [24, 4], [30, 7], [60, 2]])('fall as they should at %d frames a second and %d substeps', async (rate, substeps) => {
    const shot = brokenShot({ pieces: 6 }, { influences: [gravity, body()], ...born({ aim: 'direction', direction: [1, 0, 0], speed: 2 }) }, { frames: { first: 1, last: 100, rate }, quality: { substeps, iterations: 4 } }, { position: [0, 50, 0] })
    const simulation = await simulate(shot, await meshesOf(shot))
    const start = Array.from({ length: 6 }, (_, i) => columnsOf(simulation).at('position', i))
    run(simulation, rate)
    const { at } = columnsOf(simulation)
    start.forEach((from, i) => {
      const to = at('position', i)
      expect(to[0]).toBeCloseTo(from[0] + 2, 3)
      expect(to[1]).toBeCloseTo(from[1] - G / 2, 3)
    })
  }) // prettier-ignore
  test('an even burst keeps momentum: pieces that push one another apart', async () => {
    const shot = brokenShot({ pieces: 30, seeds: 'random' }, { influences: [body({ bounce: 0.5 }), { id: 'in', kind: 'attract', point: [0.1, 0, 0], strength: { keys: [[1, 6], [12, 6], [13, 0]] }, falloff: 'none', weights: { Free: 1 } }] })
    const simulation = await simulate(shot, await meshesOf(shot))
    run(simulation, 14)
    const total = (): Vector => {
      const { columns, count, at } = columnsOf(simulation)
      const sum: Vector = [0, 0, 0]
      for (let i = 0; i < count; i++) at('velocity', i).forEach((v, k) => (sum[k] = sum[k]! + v * (columns.radius![i]! ** 3)))
      return sum
    }
    const before = total()
    run(simulation, 30)
    total().forEach((p, k) => expect(p).toBeCloseTo(before[k]!, 5))
  }) // prettier-ignore
})

describe('contacts', () => {
  const one = (more: Loose = {}, place: Loose = {}, rest: Loose = {}) =>
    brokenShot({ pieces: 1 }, more, rest, place)
  test.each([[0.3, 12, false], [0.3, 22, true], [0.6, 28, false], [0.6, 35, true]])(
    'on a slope with friction %d a block of %d° slides: %s',
    async (friction, degrees, slides) => {
      const turn = (degrees * Math.PI) / 180
      const direction = [Math.sin(turn), Math.cos(turn), 0]
      const shot = one({ influences: [gravity, body({ friction, bounce: 0 }), floor({ direction, friction, sliding: friction, bounce: 0 })] }, { rotation: [0, 0, -degrees], position: [0.026 * direction[0]!, 0.026 * direction[1]!, 0] })
      const simulation = await simulate(shot, await meshesOf(shot, box(0.3, 0.05, 0.3)))
      run(simulation, 12)
      const from = columnsOf(simulation).at('position', 0)
      run(simulation, 24)
      const to = columnsOf(simulation).at('position', 0)
      const way = Math.hypot(to[0] - from[0], to[1] - from[1])
      if (slides) {
        // closed form: a = g·(sin θ − μ·cos θ), from rest half a second before
        const a = G * (Math.sin(turn) - friction * Math.cos(turn))
        expect(way / ((a * (1.5 ** 2 - 0.5 ** 2)) / 2)).toBeGreaterThan(0.75)
        expect(way / ((a * (1.5 ** 2 - 0.5 ** 2)) / 2)).toBeLessThan(1.25)
      } else expect(way).toBeLessThan(0.004)
    },
  ) // prettier-ignore
  test.each([[0.02, 24, 5], [0.3, 24, 12], [0.3, 60, 4], [20, 24, 6]])('friction at rest holds a block of %d m, sliding friction slows it once it moves: %d × %d steps a second', async (size, rate, substeps) => {
    const [atRest, sliding, degrees] = [0.6, 0.3, 25]
    const turn = (degrees * Math.PI) / 180
    const direction = [Math.sin(turn), Math.cos(turn), 0]
    const kick = 0.5 * Math.sqrt(G * size)
    const on = (speed: number) => one({ influences: [gravity, body({ friction: 9, sliding: 9, bounce: 0 }), floor({ direction, friction: atRest, sliding, bounce: 0 })], ...born({ aim: 'direction', direction: [Math.cos(turn), -Math.sin(turn), 0], speed }) }, { rotation: [0, 0, -degrees], position: [0.086 * size * direction[0]!, 0.086 * size * direction[1]!, 0] }, { frames: { first: 1, last: 400, rate }, quality: { substeps, iterations: 6 } })
    const seconds = Math.sqrt(size / 0.3)
    const way = async (speed: number): Promise<number> => {
      const simulation = await simulate(on(speed), await meshesOf(on(speed), box(size, size / 6, size)))
      const start = columnsOf(simulation).at('position', 0)
      run(simulation, Math.round(seconds * rate))
      const to = columnsOf(simulation).at('position', 0)
      return Math.hypot(to[0] - start[0], to[1] - start[1])
    }
    expect(await way(0)).toBeLessThan(0.02 * size)
    // kicked, it goes on: tan θ lies between both coefficients
    const t = Math.round(seconds * rate) / rate
    const wanted = kick * t + (G * (Math.sin(turn) - sliding * Math.cos(turn)) * t * t) / 2
    expect((await way(kick)) / wanted).toBeGreaterThan(0.85)
    expect((await way(kick)) / wanted).toBeLessThan(1.15)
  }) // prettier-ignore
  test('a ball that rolls is not slowed by sliding friction; a block on a belt rests on it', async () => {
    const roll = brokenShot({ pieces: 1 }, {
      particle: { radius: { mean: 0.1, spread: 0 } },
      births: [{ id: 'b', kind: 'surface', mesh: 'box', into: 'Free', amount: { burst: 1, at: 1 }, aim: 'direction', direction: [1, 0, 0], speed: 1 }],
      influences: [gravity, body({ friction: 0.8, sliding: 0.1, bounce: 0 }), floor({ friction: 0.8, sliding: 0.1, bounce: 0 })],
      look: { draw: 'points' },
    }, {}, { position: [0, 0.1, 0] })
    const simulation = await simulate(roll, await meshesOf(roll, box(1e-4, 1e-4, 1e-4)))
    run(simulation, 48)
    const { at } = columnsOf(simulation)
    // from sliding to rolling it keeps 5/7 of its speed, whatever the friction: Coriolis (1835)
    expect(at('velocity', 0)[0]).toBeGreaterThan(0.65)
    expect(at('velocity', 0)[0]).toBeLessThan(0.75)
    const belt = { id: 'c', kind: 'collide', mesh: 'belt', weights: { Free: 1 }, friction: 0.4, sliding: 0.05, bounce: 0 }
    const carried = brokenShot({ pieces: 1 }, { influences: [gravity, body({ bounce: 0 }), belt] }, { meshes: [{ id: 'belt', source: { asset: BELT }, place: { position: { keys: [[1, [0, -0.1, 0]], [49, [1, -0.1, 0]]] } } }] }, { position: [0, 0.051, 0] })
    const moved = await simulate(carried, await meshesOf(carried, box(0.1, 0.1, 0.1), { [BELT]: box(6, 0.2, 6) }))
    run(moved, 40)
    expect(columnsOf(moved).at('velocity', 0)[0]).toBeCloseTo(0.5, 1)
  }) // prettier-ignore
  test.each([[20, false], [32, true]])('a post twice as high as wide on rough ground of %d° topples: %s', async (degrees, topples) => {
    const turn = (degrees * Math.PI) / 180
    const direction = [Math.sin(turn), Math.cos(turn), 0]
    const shot = one({ influences: [gravity, body({ friction: 2, bounce: 0 }), floor({ direction, friction: 2, bounce: 0 })] }, { rotation: [0, 0, -degrees], position: direction.map((x) => x * 0.1005) })
    const simulation = await simulate(shot, await meshesOf(shot, box(0.1, 0.2, 0.1)))
    run(simulation, 48)
    const q = Array.from(columnsOf(simulation).columns.orientation as Float32Array) as Quaternion
    const up = rotate(q, [0, 1, 0])
    const upright = up[0] * direction[0]! + up[1] * direction[1]! + up[2] * direction[2]!
    if (topples) expect(upright).toBeLessThan(0.8)
    else expect(upright).toBeGreaterThan(0.99)
  }) // prettier-ignore
  test.each([0, 0.4, 0.8])('a ball bounces to e² of its height, e = %d', async (bounce) => {
    const shot = one({ influences: [gravity, body({ bounce, friction: 0.3 }), floor({ bounce })] }, { position: [0, 1.25, 0] })
    const simulation = await simulate(shot, await meshesOf(shot, await solid((M) => M.sphere(0.25, 24))))
    let [hit, highest] = [false, 0]
    for (let n = 0; n < 40; n++) {
      simulation.advance()
      const [, y] = columnsOf(simulation).at('position', 0)
      const [, v] = columnsOf(simulation).at('velocity', 0)
      if (v > 0 || y < 0.27) hit = true
      if (hit && v <= 0 && highest > 0) break
      if (hit) highest = Math.max(highest, y - 0.25)
    }
    expect(highest).toBeLessThan(bounce ** 2 * 1.15 + 0.03)
    expect(highest).toBeGreaterThan(bounce ** 2 * 0.8 - 0.03)
  }) // prettier-ignore
  test.each([[0.002, 10], [0.005, 10], [0.05, 40], [1, 10], [40, 6]])('pieces of a block of %d m lie still on a mesh, and none falls through it', async (size, frames) => {
    const shot = brokenShot({ pieces: 40, seeds: 'random' }, { influences: [gravity, body(), { id: 'c', kind: 'collide', mesh: 'slab', weights: { Free: 1 }, friction: 0.7 }] }, { meshes: [{ id: 'slab', source: { asset: OTHER }, place: { scale: [size * 12, size, size * 12], position: [0, -size / 2, 0] } }] }, { scale: [size, size, size], position: [0, size * 0.6, 0] })
    const simulation = await simulate(shot, await meshesOf(shot, box(), { [OTHER]: box() }))
    run(simulation, Math.min(230, 60 + frames))
    const { count, at } = columnsOf(simulation)
    for (let i = 0; i < count; i++) {
      expect(at('position', i)[1]).toBeGreaterThan(0)
      expect(Math.hypot(...at('velocity', i))).toBeLessThan(0.6 * Math.sqrt(G * size))
    }
  }, 120_000) // prettier-ignore
  test.each([[0.02, 2, 'outside'], [10, 2, 'outside'], [1, 4, 'either']])('no wedge among 60 is pressed through a mesh: %d m, %d substeps, from %s', async (size, substeps, side) => {
    const shot = brokenShot({ pieces: 60, seeds: 'random', seed: 1 }, { particle: { density: 1500 }, influences: [gravity, body({ friction: 0.6 }), { id: 'c', kind: 'collide', mesh: 'ground', side, weights: { Free: 1 } }] }, { seed: 1, frames: { first: 1, last: 100, rate: 24 }, quality: { substeps, iterations: 4 }, meshes: [{ id: 'ground', source: { asset: BELT } }] }, { position: [0, 2 * size, 0], rotation: [20, 10, 30] })
    const ground = side === 'either' ? sheet(20, size * 40, size) : box(size * 40, size * 2, size * 40)
    const simulation = await simulate(shot, await meshesOf(shot, box(size, size, size), { [BELT]: ground }))
    run(simulation, 40)
    const { count, at } = columnsOf(simulation)
    for (let i = 0; i < count; i++) expect(at('position', i)[1]).toBeGreaterThan(0.98 * size)
  }, 60_000) // prettier-ignore
  test('those that touch nothing from the start stay as they are: nobody explodes', async () => {
    const shot = brokenShot({ pieces: 60 }, { influences: [body()] })
    const simulation = await simulate(shot, await meshesOf(shot))
    run(simulation, 48)
    const { count, at } = columnsOf(simulation)
    for (let i = 0; i < count; i++) expect(Math.hypot(...at('velocity', i))).toBeLessThan(0.02)
  })
  test('a moving mesh pushes them along', async () => {
      const shot = one({ influences: [gravity, body({ friction: 0.2 }), floor({ friction: 0.2 }), { id: 'c', kind: 'collide', mesh: 'ram', weights: { Free: 1 }, friction: 0.2, bounce: 0 }] }, { scale: [0.2, 0.2, 0.2], position: [0, 0.1, 0] }, { meshes: [{ id: 'ram', source: { asset: OTHER }, place: { scale: [0.2, 0.5, 1], position: [{ keys: [[1, -1], [49, 1]] }, 0.3, 0] } }] })
    const simulation = await simulate(shot, await meshesOf(shot, box(), { [OTHER]: box() }))
    run(simulation, 48)
    expect(columnsOf(simulation).at('position', 0)[0]).toBeGreaterThan(1.15)
  }) // prettier-ignore
})

describe('held, free, led', () => {
  const phases = ['Held', 'Free', 'Homing', 'Home']
  const cycle = (more: Loose = {}, place: Loose = {}): Shot =>
    brokenShot({ pieces: 25, seeds: 'random' }, {
      phases,
      ...born({ into: 'Held' }),
      cues: [
        { id: 'a', from: 'Held', to: 'Free', when: { kind: 'after', frames: 12 } },
        { id: 'b', from: 'Free', to: 'Homing', when: { kind: 'after', frames: { mean: 30, spread: 10 } } },
        { id: 'c', from: 'Homing', to: 'Home', when: { kind: 'goal', distance: 0.0001 } },
      ],
      influences: [
        { id: 'ride', kind: 'ride', weights: { Held: 1, Home: 1 } },
        gravity,
        body(),
        floor({ height: -1 }),
        { id: 'd', kind: 'dock', weights: { Homing: 1 }, speed: 3, ease: 0.4, turn: 400, ...more },
      ],
    }, {}, place) // prettier-ignore
  const swing = { rotation: [0, { keys: [[1, 0], [40, 60], [80, -40], [160, 50], [240, 0]] }, { keys: [[1, 0], [60, 30], [120, -30], [240, 10]] }], position: [{ keys: [[1, 0], [120, 0.4], [240, 0]] }, 0.5, 0] } // prettier-ignore

  /** Where each piece would be, and how turned, were it still in the mesh. */
  async function offHome(
    shot: Shot,
    meshes: Map<string, Mesh>,
    simulation: Awaited<ReturnType<typeof simulate>>,
  ) {
    const mesh = meshes.get(sourceKey(shot.meshes[1]!.source, shot))!
    const masses = massProperties(mesh, [1, 1, 1])
    const place = simulation.world.bodies.get('broken')!.placeAt(simulation.frame)
    const { count, columns, at } = columnsOf(simulation)
    let [way, turn] = [0, 0]
    for (let i = 0; i < count; i++) {
      const { centre } = masses[((columns.piece as Uint32Array)[i]! - 1) % 65536]!
      const [x, y, z] = [0, 1, 2].map((r) => place[r * 4]! * centre[0] + place[r * 4 + 1]! * centre[1] + place[r * 4 + 2]! * centre[2] + place[r * 4 + 3]!) as Vector // prettier-ignore
      const now = at('position', i)
      way = Math.max(way, Math.hypot(now[0] - x, now[1] - y, now[2] - z))
      const q = Array.from((columns.orientation as Float32Array).subarray(i * 4, i * 4 + 4)) as Quaternion
      for (const axis of [
        [1, 0, 0],
        [0, 1, 0],
      ] as Vector[]) {
        const turned = rotate(q, axis)
        const own = [0, 1, 2].map((r) => place[r * 4]! * axis[0] + place[r * 4 + 1]! * axis[1] + place[r * 4 + 2]! * axis[2]) // prettier-ignore
        turn = Math.max(turn, Math.hypot(...turned.map((t, k) => t - own[k]!)))
      }
    }
    return { way, degrees: (turn * 180) / Math.PI }
  }

  test('held they are in their places of the moving mesh; home again exactly, while it swings', async () => {
    const shot = cycle({}, swing)
    const meshes = await meshesOf(shot)
    const simulation = await simulate(shot, meshes)
    run(simulation, 10)
    const held = await offHome(shot, meshes, simulation)
    expect(held.way).toBeLessThan(1e-5)
    expect(held.degrees).toBeLessThan(0.01)
    run(simulation, 20)
    expect((await offHome(shot, meshes, simulation)).way).toBeGreaterThan(0.3)
    run(simulation, 200)
    const { columns } = columnsOf(simulation)
    expect([...(columns.phase as Uint32Array)].every((phase) => phase === 3)).toBe(true)
    const home = await offHome(shot, meshes, simulation)
    expect(home.way).toBeLessThan(1e-4)
    expect(home.degrees).toBeLessThan(0.1)
  })
  test.each([[0.3, 0.1], [6, 2], [1, 0.02]])('at most so fast as is said: %d m/s, ease %d s', async (speed, ease) => {
    const shot = cycle({ speed, ease }, { position: [0, 0.5, 0] })
    const simulation = await simulate(shot, await meshesOf(shot))
    run(simulation, 60)
    let fastest = 0
    for (let n = 0; n < 60; n++) {
      simulation.advance()
      const { count, columns, at } = columnsOf(simulation)
      for (let i = 0; i < count; i++)
        if (columns.phase![i] === 2 && (columns.phaseAge as Float32Array)[i]! > 3 * ease) fastest = Math.max(fastest, Math.hypot(...at('velocity', i))) // prettier-ignore
    }
    expect(fastest).toBeLessThan(1.02 * speed)
  }) // prettier-ignore
  test('let go, a piece has the velocity and the spin of its mesh', async () => {
    const shot = brokenShot({ pieces: 8 }, { ...born({ into: 'Held' }), cues: [{ id: 'a', from: 'Held', to: 'Free', when: { kind: 'after', frames: 24 } }], influences: [{ id: 'ride', kind: 'ride', weights: { Held: 1 } }, body()] }, {}, { rotation: [0, { keys: [[1, 0], [97, 360]] }, 0] })
    const simulation = await simulate(shot, await meshesOf(shot))
    run(simulation, 26)
    const { count, at } = columnsOf(simulation)
    for (let i = 0; i < count; i++) expect(at('angularVelocity', i)[1]).toBeCloseTo(Math.PI / 2, 1)
    const [x, , z] = at('position', 0)
    const [vx, , vz] = at('velocity', 0)
    expect(Math.hypot(vx, vz) / (Math.hypot(x, z) * (Math.PI / 2))).toBeCloseTo(1, 1)
  }) // prettier-ignore

  describe('the same bytes', () => {
    const fingerprints = async (resume?: number): Promise<string[]> => {
      const shot = cycle({}, swing)
      const meshes = await meshesOf(shot)
      let simulation = await simulate(shot, meshes)
      const out: string[] = []
      for (let n = 0; n < 70; n++) {
        simulation.advance()
        if (n === resume) {
          const snapshot = structuredClone(simulation.snapshot())
          simulation.dispose()
          simulation = createSimulation(createMachine(createMemory()), shot, meshes, { from: snapshot })
        }
        out.push(simulation.fingerprint())
      }
      return out
    }
    test('after a resume, held, falling, lying and on the way home', async () => {
      const straight = await fingerprints()
      for (const at of firstOf(3, [3, 25, 60, 14, 45]))
        expect((await fingerprints(at)).slice(at)).toEqual(straight.slice(at))
    })
    test('a snapshot changes nothing of what goes on', async () => {
      const shot = cycle({}, swing)
      const meshes = await meshesOf(shot)
      const simulation = await simulate(shot, meshes)
      const seen: string[] = []
      for (let n = 0; n < 70; n++) {
        simulation.advance()
        simulation.snapshot()
        seen.push(simulation.fingerprint())
      }
      expect(seen).toEqual(await fingerprints())
    })
  })
})

test('particles that are drawn as meshes are bodies of their shape, others balls', async () => {
  const shot = brokenShot({ pieces: 1 }, {
    particle: { radius: 0.05, density: 1000 },
    births: [{ id: 'b', kind: 'surface', mesh: 'box', into: 'Free', amount: { burst: 20, at: 1 }, offset: 0.3, turned: 'random' }],
    influences: [gravity, body(), floor({ height: -1 })],
    look: { draw: 'instances', instances: { set: [{ mesh: 'plate', weight: 1 }], fit: 'radius', size: 1 } },
  }, { meshes: [{ id: 'plate', source: { asset: OTHER } }] })
  const simulation = await simulate(shot, await meshesOf(shot, box(), { [OTHER]: box(1, 0.1, 1) }))
  run(simulation, 140)
  const { count, columns, at } = columnsOf(simulation)
  let lying = 0
  for (let i = 0; i < count; i++) {
    const up = rotate(Array.from((columns.orientation as Float32Array).subarray(i * 4, i * 4 + 4)) as Quaternion, [0, 1, 0])
    if (Math.abs(up[1]) > 0.98 && at('position', i)[1] < -0.98) lying++
  }
  // a plate lies on its face, not on its edge
  expect(lying).toBeGreaterThan(0.8 * count)
}) // prettier-ignore

test('a rate of pieces, and a mesh that is not broken, are refused with what to do', async () => {
  const rate = brokenShot({ pieces: 3 }, born({ amount: { rate: 100 } }))
  const meshes = await meshesOf(rate)
  await expect((async () => run(await simulate(rate, meshes), 3))()).rejects.toThrow(/burst of "all"/)
  const whole = brokenShot({ pieces: 3 }, born({ mesh: 'box' }))
  await expect(simulate(whole, await meshesOf(whole))).rejects.toThrow(/not broken: break one in Meshes/)
})
