import type { Mesh, Shot, Simulation, Vector } from '../src/index.ts'
import { ASSET, box } from './help.ts'
import { createMachine } from '@tangle/kernels'
import { createSimulation } from '../src/index.ts'
import { blocks, body, bonded, bondedShot, G, gravity, look } from './bondHelp.ts'
import { simulate } from './rigidHelp.ts'
import { firstOf } from './wide.ts'

type Loose = Record<string, unknown>
const meshOf = (mesh: Mesh): Map<string, Mesh> => new Map([[ASSET, mesh]])
const run = (simulation: Simulation, frames: number): void => {
  for (let n = 0; n < frames; n++) simulation.advance()
}

/** Pieces within boxes are held; the others are free from the first substep on. */
function heldIn(boxes: { centre: Vector; size: Vector }[], influences: Loose[], rest: Loose = {}, place: Loose = {}): Shot {
  const masks = boxes.map((one, n) => ({ id: `box${n}`, name: `Box ${n}`, kind: 'box', soft: 0, ...one }))
  return bondedShot(
    [{ id: 'ride', kind: 'ride', weights: { Held: 1 } }, ...influences],
    { masks, ...rest },
    place,
    {
      phases: ['Start', 'Held', 'Free'],
      births: [{ id: 'b', kind: 'pieces', mesh: 'box', into: 'Start', amount: { burst: 'all', at: 1 } }],
      cues: [
        ...masks.map(({ id }) => ({ id: `in-${id}`, from: 'Start', to: 'Held', when: { kind: 'mask', mask: id } })),
        { id: 'out', from: 'Start', to: 'Free', when: { kind: 'after', frames: 0 } },
      ],
    },
  )
} // prettier-ignore

const broken = (simulation: Simulation): { pairs: [number, number][] } => {
  const table = Object.values(simulation.world.memory.bonds as Record<string, { a: Uint32Array; b: Uint32Array; state: Uint8Array }>)[0]! // prettier-ignore
  return { pairs: [...table.state.keys()].filter((k) => table.state[k] !== 1).map((k) => [table.a[k]!, table.b[k]!]) } // prettier-ignore
}

test('what is bonded falls as one, and bears nothing as it falls', async () => {
  const shot = bondedShot([gravity(), body(), bonded()], {}, { position: [0, 20, 0] })
  const simulation = await simulate(shot, meshOf(blocks([4, 2, 2], [1, 0.5, 0.5])))
  const start = Array.from({ length: 16 }, (_, i) => look(simulation).position(i))
  run(simulation, 24)
  const seen = look(simulation)
  start.forEach((from, i) => {
    const to = seen.position(i)
    expect(to[0]).toBeCloseTo(from[0], 5)
    expect(to[1]).toBeCloseTo(from[1] - G / 2, 3)
    expect(seen.stress[i]).toBeLessThan(1e-3)
  })
})

describe('a beam breaks at the load of its section', () => {
  // closed form: a cantilever under its own weight bears 3·ρ·g·L²/h at the edge of its root (Timoshenko, "Strength of materials")
  test.each([
    [[6, 1, 1], [1.2, 0.2, 0.2], 24, 10],
    [[8, 2, 2], [1.6, 0.3, 0.2], 24, 4],
    [[12, 3, 3], [0.024, 0.004, 0.006], 30, 12],
    [[10, 4, 2], [100, 20, 10], 60, 3],
    [[9, 2, 1], [9, 0.5, 2], 24, 8],
  ] as [Vector, Vector, number, number][])('cantilever of %j blocks, %j m, %d frames a second, %d substeps', async (counts, size, rate, substeps) => {
    const [long, high] = size
    const free = long * (1 - 1 / counts[0])
    const bears = (3 * 1000 * G * free * free) / high / 1000
    const shotAt = (share: number) =>
      heldIn([{ centre: [-long / 2, 5, 0], size: [(1.5 * long) / counts[0], 4 * high, 10 * high] }], [gravity({ Free: 1 }), body(), bonded({ weights: { Start: 1, Held: 1, Free: 1 }, bears: share * bears })], { frames: { first: 1, last: 50, rate }, quality: { substeps, iterations: 4 } }, { position: [0, 5, 0] })
    for (const [share, breaks] of [[1.15, false], [0.85, true]] as const) {
      const simulation = await simulate(shotAt(share), meshOf(blocks(counts, size)))
      run(simulation, 12)
      const { pairs } = broken(simulation)
      expect(pairs.length > 0).toBe(breaks)
    }
  }) // prettier-ignore
})

// its axis is that of the bar: at the middles of pieces nothing blows
test.each([[1.6, 4], [0.08, 8], [40, 3]])('a bar of %d m in a whirl about its axis is twisted, most at the end that is held', async (long, substeps) => {
  const high = long / 8
  const whirl = { id: 'v', kind: 'vortex', weights: { Free: 1 }, strength: 5, axis: [1, 0, 0], point: [0, 5, 0], speed: 10 * long, core: long, inward: 0 }
  const held = [{ centre: [-long / 2, 5, 0] as Vector, size: [(1.5 * long) / 8, 4 * high, 10 * high] as Vector }]
  const shot = heldIn(held, [whirl, body(), bonded({ weights: { Start: 1, Held: 1, Free: 1 }, bears: 1e6 })], { frames: { first: 1, last: 50, rate: 24 }, quality: { substeps, iterations: 4 } }, { position: [0, 5, 0] })
  const simulation = await simulate(shot, meshOf(blocks([8, 1, 1], [long, high, high])))
  run(simulation, 12)
  // each bond bears what turns all pieces beyond it
  const [root, middle, tip] = [1, 4, 7].map((k) => look(simulation).stress[k]!) as [number, number, number]
  expect(tip).toBeGreaterThan(0)
  expect(root / tip).toBeCloseTo(7, 0)
  expect(middle / tip).toBeCloseTo(4, 0)
}) // prettier-ignore

describe('a blow', () => {
  /** A bar that falls on a corner. */
  const dropped = (bears: number, rate: number, substeps: number, size = 1, more: Loose = {}): [Shot, Map<string, Mesh>] => [
    bondedShot([gravity(), body({ bounce: 0.2 }), bonded({ bears, varies: 0.3, ...more }), { id: 'f', kind: 'floor', weights: { Free: 1 }, friction: 0.6, bounce: 0.2 }], { frames: { first: 1, last: 200, rate }, quality: { substeps, iterations: 4 } }, { position: [0, 1.6 * size, 0], rotation: [0, 0, 25] }),
    meshOf(blocks([8, 3, 3], [1.6 * size, 0.6 * size, 0.6 * size])),
  ] // prettier-ignore
  const brokenAfter = async (
    seconds: number,
    rate: number,
    ...rest: [Shot, Map<string, Mesh>]
  ): Promise<number> => {
    const simulation = await simulate(...rest)
    run(simulation, Math.round(seconds * rate))
    return broken(simulation).pairs.length
  }
  test('breaks as many bonds whatever the frame rate and the substeps: in the mean, for each fall is another', async () => {
    const means: number[] = []
    for (const [rate, substeps] of firstOf(2, [[24, 16], [60, 5], [24, 6], [30, 8]] as const)) {
      const counts: number[] = []
      for (const seed of [1, 2, 3]) {
        const [shot, meshes] = dropped(200, rate, substeps)
        counts.push(await brokenAfter(0.8, rate, { ...shot, seed }, meshes))
      }
      means.push(counts.reduce((a, b) => a + b, 0) / counts.length)
    }
    const mean = means.reduce((a, b) => a + b, 0) / means.length
    for (const one of means) expect(Math.abs(one - mean)).toBeLessThan(0.3 * mean)
  }, 60_000) // prettier-ignore
  test('on a mesh breaks as on the floor, in the mean, and nothing falls through', async () => {
    const slab = `sha256:${'4'.repeat(64)}`
    const counts = [0, 0]
    for (const [onMesh, seed] of [0, 1].flatMap((on) => [1, 2, 3].map((one) => [on, one] as const))) {
      const [shot, meshes] = dropped(400, 24, 8)
      if (onMesh) {
        const other = bondedShot([], { meshes: [{ id: 'slab', source: { asset: slab }, place: { position: [0, -0.5, 0] } }] }) // prettier-ignore
        shot.meshes.push(other.meshes[1]!)
        const { influences } = shot.populations[0]!
        const collide = bondedShot([{ id: 'f', kind: 'collide', mesh: 'slab', weights: { Free: 1 }, friction: 0.6, bounce: 0.2 }], { meshes: [{ id: 'slab', source: { asset: slab } }] }).populations[0]!.influences[0]! // prettier-ignore
        influences[influences.findIndex(({ kind }) => kind === 'floor')] = collide
      }
      const simulation = await simulate({ ...shot, seed }, new Map([...meshes, [slab, box(8, 1, 8)]]))
      run(simulation, 24)
      const seen = look(simulation)
      for (let i = 0; i < seen.count; i++) expect(seen.position(i)[1]).toBeGreaterThan(0)
      counts[onMesh]! += broken(simulation).pairs.length
    }
    expect(counts[1]).toBeGreaterThan(0.4 * counts[0]!)
    expect(counts[1]).toBeLessThan(2.5 * counts[0]!)
  }, 60_000)
  test('breaks the more the weaker bonds are, and none that is strong', async () => {
    const counts: number[] = []
    for (const bears of [60, 400, 1500, 1e6])
      counts.push(await brokenAfter(0.8, 24, ...dropped(bears, 24, 8)))
    expect(counts[0]).toBeGreaterThan(130)
    expect(counts[1]).toBeLessThan(counts[0]!)
    expect(counts[2]).toBeLessThan(counts[1]!)
    expect(counts[3]).toBe(0)
  }, 60_000)
  test('a clump that spins and breaks in flight keeps momentum, angular momentum and energy', async () => {
    // bonds let go by their strength, which is keyed away: what flies apart goes on as it was
    const shot = bondedShot([body(), bonded({ strength: { keys: [[1, 1], [6, 1], [7, 0]] } })], { quality: { substeps: 4, iterations: 4 } }, { rotation: [20, 30, 40] }, { births: [{ id: 'b', kind: 'pieces', mesh: 'box', into: 'Free', amount: { burst: 'all', at: 1 }, aim: 'direction', direction: [1, 0.2, 0], speed: 1.5 }] }) // prettier-ignore
    const simulation = await simulate(shot, meshOf(blocks([5, 2, 2], [1, 0.3, 0.4])))
    const { velocity, angularVelocity } = simulation.populations()[0]!.columns as Record<string, Float32Array>
    // given a spin about no axis of its own
    const turn: Vector = [1, 3, -2]
    const middle = look(simulation).position(0).map((_, k) => Array.from({ length: 20 }, (_, i) => look(simulation).position(i)[k]!).reduce((a, b) => a + b, 0) / 20) // prettier-ignore
    for (let i = 0; i < 20; i++) {
      const [x, y, z] = look(simulation)
        .position(i)
        .map((p, k) => p - middle[k]!) as Vector
      const swing = [turn[1] * z - turn[2] * y, turn[2] * x - turn[0] * z, turn[0] * y - turn[1] * x]
      swing.forEach((v, k) => (velocity![i * 3 + k] = velocity![i * 3 + k]! + v))
      angularVelocity!.set(turn, i * 3)
    }
    const sums = () => {
      const seen = look(simulation)
      const [p, l]: [Vector, Vector] = [[0, 0, 0], [0, 0, 0]] // prettier-ignore
      let energy = 0
      for (let i = 0; i < 20; i++) {
        const [x, v, w] = [seen.position(i), seen.velocity(i), seen.spin(i)]
        // every block is 0.2 × 0.15 × 0.2 m and weighs 6 kg; turned, its tensor is nearly that of a cube
        const inertia = (6 * (0.2 ** 2 + 0.175 ** 2)) / 12
        for (let k = 0; k < 3; k++) {
          const [a, b] = [(k + 1) % 3, (k + 2) % 3]
          p[k] = p[k]! + 6 * v[k]!
          l[k] = l[k]! + 6 * (x[a]! * v[b]! - x[b]! * v[a]!) + inertia * w[k]!
          energy += (6 * v[k]! ** 2 + inertia * w[k]! ** 2) / 2
        }
      }
      return [...p, ...l, energy]
    }
    run(simulation, 4)
    const before = sums()
    expect(look(simulation).stress[0]).toBeGreaterThan(0)
    run(simulation, 8)
    sums().forEach((value, k) => expect(Math.abs(value - before[k]!)).toBeLessThan(0.02 * Math.abs(before[6]!))) // prettier-ignore
  })
  test('goes on to the bit from a snapshot in the midst of it, with one thread and two', async () => {
    const [shot, meshes] = dropped(400, 24, 6)
    const simulation = await simulate(shot, meshes)
    run(simulation, 9)
    const snapshots = []
    for (let n = 0; n < 5; n++) {
      snapshots.push(simulation.snapshot())
      run(simulation, 2)
    }
    const end = simulation.fingerprint()
    for (const snapshot of snapshots) {
      const other = createSimulation(createMachine(), shot, meshes)
      other.restore(snapshot)
      while (other.frame < simulation.frame) other.advance()
      expect(other.fingerprint()).toBe(end)
    }
  }, 60_000)
})

describe('bonds', () => {
  const still = (influences: Loose[], rest: Loose = {}): Shot =>
    bondedShot([body(), bonded(), ...influences], rest, { position: [0, 3, 0] })
  /** Draws those that are nearer to its end harder, so that all part. */
  const pull = (weights: Loose): Loose => ({ id: 'pull', kind: 'attract', point: [1.5, 3, 0], strength: 4, falloff: 'even', reach: 2.3, weights }) // prettier-ignore
  const bar = (): Map<string, Mesh> => meshOf(blocks([6, 1, 1], [1.2, 0.2, 0.2]))
  test('are cut where the surface of a mesh goes through, and nowhere else', async () => {
    const blade = `sha256:${'7'.repeat(64)}`
    const shot = bondedShot([body(), bonded({ cut: 'blade' })], { meshes: [{ id: 'blade', source: { asset: blade }, place: { position: [0.2, { keys: [[1, 5], [25, 3]] }, 0] } }] }, { position: [0, 3, 0] }) // prettier-ignore
    const simulation = await simulate(shot, new Map([...bar(), [blade, blocks([1, 1, 1], [0.02, 1, 1])]]))
    run(simulation, 10)
    expect(broken(simulation).pairs).toEqual([])
    run(simulation, 14)
    expect(broken(simulation).pairs).toEqual([[3, 4]])
  })
  test('bear nothing where a mask says so', async () => {
    const shot = still([gravity({ Free: 0 })], { masks: [{ id: 'm', name: 'Weak', kind: 'box', centre: [-0.2, 3, 0], size: [0.1, 1, 1], soft: 0 }] }) // prettier-ignore
    shot.populations[0]!.influences.find((one) => one.kind === 'bonds')!.weak = 'm'
    const simulation = await simulate(shot, bar())
    run(simulation, 2)
    // a bond that bears nothing holds nobody: two bodies
    const bodies = (simulation.world.memory.rigidBodies as { bodies: unknown[] }).bodies
    expect(bodies).toHaveLength(2)
  })
  test('let go in a phase that has no weight, and pieces that went their ways stay apart', async () => {
    const phases = { phases: ['Free', 'Loose'], cues: [{ id: 'a', from: 'Free', to: 'Loose', when: { kind: 'after', frames: 6 } }, { id: 'b', from: 'Loose', to: 'Free', when: { kind: 'after', frames: 12 } }] } // prettier-ignore
    const shot = bondedShot([body({ weights: { Free: 1, Loose: 1 } }), bonded({ weights: { Free: 1 } }), pull({ Loose: 1 })], {}, { position: [0, 3, 0] }, phases) // prettier-ignore
    const simulation = await simulate(shot, bar())
    run(simulation, 5)
    expect(broken(simulation).pairs).toHaveLength(0)
    run(simulation, 20)
    expect(broken(simulation).pairs).toHaveLength(5)
  })
  test.each(['never', 'inPlace'])('mend: %s', async (mends) => {
    const shot = bondedShot(
      [
        body({ weights: { Free: 1 } }),
        bonded({ weights: { Held: 1, Home: 1 }, mends }),
        pull({ Free: 1 }),
        { id: 'home', kind: 'dock', weights: { Home: 1 }, speed: 8, ease: 0.2 },
        { id: 'ride', kind: 'ride', weights: { Held: 1 } },
      ],
      {},
      { position: [0, 3, 0] },
      {
        phases: ['Held', 'Free', 'Home'],
        births: [{ id: 'b', kind: 'pieces', mesh: 'box', into: 'Held', amount: { burst: 'all', at: 1 } }],
        cues: [
          { id: 'a', from: 'Held', to: 'Free', when: { kind: 'after', frames: 2 } },
          { id: 'b', from: 'Free', to: 'Home', when: { kind: 'after', frames: 10 } },
        ],
      },
    )
    const simulation = await simulate(shot, bar())
    run(simulation, 11)
    expect(broken(simulation).pairs).toHaveLength(5)
    run(simulation, 60)
    expect(broken(simulation).pairs).toHaveLength(mends === 'never' ? 5 : 0)
  })
  test.each([true, false])(
    'give way when their strength is keyed down under a load that stays: held %s',
    async (isHeld) => {
      const ridge = `sha256:${'9'.repeat(64)}`
      const bears = { keys: [[1, 1e6], [40, 1e6], [60, 0.05]] } // prettier-ignore
      const influences = [gravity({ Free: 1 }), body(), bonded({ weights: { Start: 1, Held: 1, Free: 1 }, bears }), { id: 'c', kind: 'collide', mesh: 'ridge', weights: { Free: 1 }, friction: 0.8 }] // prettier-ignore
      const rest = { meshes: [{ id: 'ridge', source: { asset: ridge }, place: { position: [0, 0.1, 0] } }] }
      // it hangs on its end, or sleeps on a ridge with both ends in the air
      const held = isHeld ? [{ centre: [-0.5, 3, 0] as Vector, size: [0.1, 1, 1] as Vector }] : []
      const shot = heldIn(held, influences, rest, { position: [0, isHeld ? 3 : 0.301, 0] })
      const simulation = await simulate(shot, new Map([...bar(), [ridge, box(0.4, 0.2, 0.4)]]))
      run(simulation, 38)
      expect(broken(simulation).pairs).toHaveLength(0)
      expect(Math.hypot(...look(simulation).velocity(5))).toBeLessThan(1e-3)
      run(simulation, 24)
      expect(broken(simulation).pairs.length).toBeGreaterThan(0)
    },
  )
  test('carry what hangs on a piece that is held: it goes and turns with that, and falls when it is let go', async () => {
    const shot = heldIn([{ centre: [-0.5, 3, 0], size: [0.1, 1, 1] }], [gravity({ Free: 1 }), body(), bonded({ weights: { Start: 1, Held: 1, Free: 1 }, bears: 1e5, strength: { keys: [[1, 1], [30, 1], [31, 0]] } })], {}, { position: [0, 3, 0], rotation: [0, { keys: [[1, 0], [25, 90]] }, 0] }) // prettier-ignore
    const simulation = await simulate(shot, bar())
    run(simulation, 24)
    // the far end has swung a quarter round the middle of the mesh
    look(simulation).position(5).forEach((x, k) => expect(x).toBeCloseTo([0, 3, -0.5][k]!, 4)) // prettier-ignore
    run(simulation, 20)
    expect(look(simulation).position(0)[1]).toBeCloseTo(3, 4)
    expect(look(simulation).position(5)[1]).toBeLessThan(2)
  })
})
