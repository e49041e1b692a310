import { random, STREAM, seedFrom } from '../src/math/random.ts'
import { areaAbove } from '../src/geometry/clip.ts'
import { ASSET, acting, box, burst, column, runTo, shotOf, start } from './help.ts'

type Loose = Record<string, unknown>
const held = { phases: ['Held', 'Loose'], births: [burst({ into: 'Held' })] }
const cue = (when: Loose, more: Loose = {}): Loose => ({ id: 'c', from: 'Held', to: 'Loose', when, ...more })
const phases = (population: Loose, frame: number, rest: Loose = {}): Record<string, number> =>
  runTo(start(shotOf(population, rest)), frame).measures().populations[0]!.phases
const slab = { id: 'm', kind: 'slab', position: [0, 0, 0], direction: [1, 0, 0], soft: 0 }

test('a cue after a time: all go at that frame; with variation evenly between mean − spread and mean + spread', () => {
  const at = (frames: unknown, frame: number) =>
    phases({ ...held, cues: [cue({ kind: 'after', frames })] }, frame).Loose
  expect([at(10, 11), at(10, 12)]).toEqual([0, 1000])
  const spread = { mean: 20, spread: 10 }
  expect(at(spread, 10)).toBe(0)
  expect(Math.abs(at(spread, 22)! - 500)).toBeLessThan(60)
  expect(at(spread, 33)).toBe(1000)
})

test('a cue at a frame: from it on, whoever comes later at once; varied and keyed, at any rate and number of substeps', () => {
  const at = (when: Loose, frame: number, rest: Loose = {}) =>
    phases({ ...held, cues: [cue({ kind: 'frame', ...when })] }, frame, rest).Loose
  for (const [rate, substeps] of [
    [24, 1],
    [30, 3],
    [60, 7],
  ]) // prettier-ignore
  {
    const pace = { frames: { first: 1, last: 60, rate }, quality: { substeps } }
    expect([at({ frame: 20 }, 20, pace), at({ frame: 20 }, 21, pace)]).toEqual([0, 1000])
  }
  expect(at({ frame: 1 }, 2)).toBe(1000)
  expect([at({ frame: 20, spread: 8 }, 12), at({ frame: 20, spread: 8 }, 29)]).toEqual([0, 1000])
  expect(Math.abs(at({ frame: 20, spread: 8 }, 20)! - 500)).toBeLessThan(60)
  // a cue of frame 10 that is put off to 30 before it comes
  const keyed = { keys: [[1, 10, 'hold'], [5, 30]] } // prettier-ignore
  expect([at({ frame: keyed }, 30), at({ frame: keyed }, 31)]).toEqual([0, 1000])
  // twice: into the second phase at 10, out of it at 8 is at once, not after eight more
  const twice = [cue({ kind: 'frame', frame: 10 }), cue({ kind: 'frame', frame: 8 }, { id: 'd', from: 'Loose', to: 'dies' })] // prettier-ignore
  expect(phases({ ...held, cues: twice }, 12)).toEqual({ Held: 0, Loose: 0 })
})

test('a cue by a mask takes exactly those where it is above the level, and below leaves the others', () => {
  const simulation = runTo(
    start(shotOf({ ...held, cues: [cue({ kind: 'mask', mask: 'm' })] }, { masks: [slab] })),
    3,
  )
  const x = column(simulation, 'position').filter((_, i) => i % 3 === 0)
  const phase = column(simulation, 'phase')
  x.forEach((value, i) => expect(phase[i]).toBe(value <= 0 ? 1 : 0))
  const below = phases({ ...held, cues: [cue({ kind: 'mask', mask: 'm', below: 0.5 })] }, 3, {
    masks: [slab],
  })
  expect(below.Held).toBe(x.filter((value) => value <= 0).length)
})

test('chance: the share that follows, always the same ones; the others never do', () => {
  const some = { ...held, cues: [cue({ kind: 'after', frames: 2 }, { chance: 0.3 })] }
  const early = phases(some, 5)
  expect(Math.abs(early.Loose! - 300)).toBeLessThan(50)
  expect(phases(some, 60)).toEqual(early)
})

test('several cues may leave a phase: the first in order counts; dies ends the life', () => {
  const two = (order: Loose[]) => phases({ ...held, cues: order }, 5)
  const die = cue({ kind: 'after', frames: 2 }, { id: 'd', to: 'dies' })
  const go = cue({ kind: 'after', frames: 2 })
  expect(two([go, die])).toEqual({ Held: 0, Loose: 1000 })
  expect(two([die, go])).toEqual({ Held: 0, Loose: 0 })
})

test('inside, contact, rest and part of life hold when they should', () => {
  const fall = { ...held, influences: [acting('gravity', { weights: { Held: 1 } })] }
  // the box hangs 3 m up: the floor is touched after √(2·(3 ± ½)/g) seconds
  const place = { meshes: [{ id: 'box', source: { asset: ASSET }, place: { position: [0, 3, 0] } }] }
  const touch = { ...fall, cues: [cue({ kind: 'contact' })] }
  expect(phases(touch, 17, place).Loose).toBe(0)
  expect(phases(touch, 23, place).Loose).toBe(1000)
  const inside = (side: string) =>
    phases({ ...held, cues: [cue({ kind: 'inside', mesh: 'box', within: 0.01, side })] }, 3)
  expect([inside('inside').Loose, inside('outside').Loose]).toEqual([1000, 0])
  expect(phases({ ...held, cues: [cue({ kind: 'rest' })] }, 12).Loose).toBe(1000)
  expect(phases({ ...fall, cues: [cue({ kind: 'rest' })] }, 12).Loose).toBe(0)
  const mortal = {
    ...held,
    particle: { radius: 0.01, lifespan: 40 },
    cues: [cue({ kind: 'life', share: 0.5 })],
  }
  expect([phases(mortal, 20).Loose, phases(mortal, 23).Loose]).toEqual([0, 1000])
})

const moving = {
  meshes: [
    {
      id: 'box',
      source: { asset: ASSET },
      place: { position: [{ keys: [[1, 0], [25, 6]] }, 0, 0], rotation: [0, { keys: [[1, 0], [25, 90]] }, 0] }, // prettier-ignore
      deform: [{ id: 'r', kind: 'ripple', amount: 0.1, wavelength: 0.7, speed: 1, direction: [0, 1, 0] }],
    },
  ],
}
test('riding: on a mesh that moves, turns and ripples they stay on the surface, and leave with its velocity', () => {
  const ride = { ...held, influences: [acting('ride', { weights: { Held: 1 } })] }
  // the same points on the mesh as it is at that frame: a burst there
  for (const frame of [1, 9, 20]) {
    const riding = column(runTo(start(shotOf(ride, moving)), frame), 'position')
    const born = shotOf({ births: [burst({ amount: { burst: 1000, at: frame } })] }, moving)
    const there = column(runTo(start(born), frame), 'position')
    riding.forEach((value, i) => expect(value).toBeCloseTo(there[i]!, 4))
  }
  const rigid = { meshes: [{ id: 'box', source: { asset: ASSET }, place: { position: [{ keys: [[1, 0], [25, 6]] }, 0, 0] } }] } // prettier-ignore
  const go = { ...ride, cues: [cue({ kind: 'after', frames: 10 })] }
  const velocity = column(runTo(start(shotOf(go, rigid)), 20), 'velocity')
  for (let i = 0; i < velocity.length; i += 3) expect(velocity[i]).toBeCloseTo(6, 3)
})

test('riding by half closes half of the way each 1/24 s, whatever the substeps', () => {
  const at = (substeps: number): number => {
    // the mesh jumps a metre at once and then stands
    const place = { position: [{ keys: [[1, 0, 'hold'], [2, 1]] }, 0, 0] } // prettier-ignore
    const shot = shotOf(
      {
        ...held,
        births: [burst({ into: 'Held', inherit: 0 })],
        influences: [acting('ride', { weights: { Held: 0.5 }, inherit: 0 })],
      },
      { meshes: [{ id: 'box', source: { asset: ASSET }, place }], quality: { substeps } },
    )
    const before = column(start(shot), 'position')[0]!
    return column(runTo(start(shot), 4), 'position')[0]! - before
  }
  expect(at(8)).toBeGreaterThan(0.7)
  expect(at(16) - at(8)).toBeLessThan(0.02)
})

test('return: half of the way back after its half-life, by the critically damped closed form', () => {
  const shot = shotOf({
    phases: ['Loose', 'Homing'],
    births: [burst({ speed: 2, aim: 'direction', direction: [0, 1, 0] })],
    cues: [{ id: 'c', from: 'Loose', to: 'Homing', when: { kind: 'after', frames: 12 } }],
    influences: [acting('return', { weights: { Homing: 1 }, halfLife: 0.5 })],
  })
  const home = column(start(shot), 'position')
  const simulation = runTo(start(shot), 13)
  const away = column(simulation, 'position').map((x, i) => x - home[i]!)
  const w = 1.6783469900166605 / 0.5
  const t = 0.5
  const expected = (away[1]! + (2 + w * away[1]!) * t) * Math.exp(-w * t)
  const later = column(runTo(simulation, 25), 'position').map((x, i) => x - home[i]!)
  expect(later[1]).toBeCloseTo(expected, 2)
  expect(
    Math.max(...column(runTo(simulation, 200), 'position').map((x, i) => Math.abs(x - home[i]!))),
  ).toBeLessThan(1e-3)
})

test('responses: a factor of the strength by what they read; two multiply', () => {
  const grows = { to: 'strength', from: 'phaseFrames', curve: [[0, 0], [24, 1]] } // prettier-ignore
  const fall = (responses: Loose[]): number =>
    column(
      runTo(start(shotOf({ births: [burst()], influences: [acting('gravity', { responses })] })), 25),
      'velocity',
    )[1]!
  // ∫ g·t dt over a second is g/2; twice the curve, ∫ g·t² dt = g/3
  expect(fall([grows])).toBeCloseTo(-9.80665 / 2, 1)
  expect(fall([grows, grows])).toBeCloseTo(-9.80665 / 3, 1)
  const half = { to: 'strength', from: 'y', curve: [[0, 1, 'hold'], [1e-6, 0]] } // prettier-ignore
  const simulation = runTo(start(shotOf({ births: [burst({ kind: 'vertices', amount: { burst: 'all', at: 1 } })], influences: [acting('gravity', { responses: [half] })] })), 2) // prettier-ignore
  const velocity = column(simulation, 'velocity').filter((_, i) => i % 3 === 1)
  expect(velocity.filter((v) => v < -0.1)).toHaveLength(4)
  expect(velocity.filter((v) => v === 0)).toHaveLength(4)
})

test('responses read a mask and chance as they are defined', () => {
  const read = (response: Loose, rest: Loose = {}): number[] => {
    const shot = shotOf(
      { births: [burst()], influences: [acting('size', { responses: [{ to: 'size', ...response }] })] },
      rest,
    )
    return column(runTo(start(shot), 2), 'radius').map((r) => r / 0.01)
  }
  const straight = { curve: [[0, 0.5], [1, 1]] } // prettier-ignore
  const byMask = read({ from: 'mask', mask: 'm', ...straight }, { masks: [slab] })
  expect(new Set(byMask.map((r) => r.toFixed(3)))).toEqual(new Set(['0.500', '1.000']))
  const seed = seedFrom(seedFrom(3, 'dust'), 'size')
  read({ from: 'random', ...straight }).forEach((r, id) =>
    expect(r).toBeCloseTo(0.5 + 0.5 * random(seed, id, STREAM.response), 5),
  )
})

test('changes: size over age, mass with its cube, death at size zero; opacity, colour and spin', () => {
  const over = (from: string, to: number[][]) => [{ to: 'size', from, curve: to }]
  const shrink = acting('size', { responses: over('frames', [[0, 1], [20, 0]]) }) // prettier-ignore
  const shot = shotOf({ births: [burst()], influences: [shrink] })
  const first = start(shot)
  const mass = 1 / column(first, 'inverseMass')[0]!
  const half = runTo(first, 11)
  expect(column(half, 'radius')[0]).toBeCloseTo(0.005, 3)
  expect(1 / column(half, 'inverseMass')[0]! / mass).toBeCloseTo((column(half, 'radius')[0]! / 0.01) ** 3, 4)
  expect(runTo(half, 22).populations()[0]!.count).toBe(0)

  const many = shotOf({
    births: [burst()],
    influences: [
      acting('fade', { opacity: 0.25 }),
      acting('colour', { ramp: { stops: [[0, '#000000'], [1, '#ff0000']] }, at: 1 }), // prettier-ignore
      acting('spin', { rate: 90, about: 'axis', axis: [0, 0, 2] }),
    ],
    look: { colour: { from: 'own' } },
  })
  const later = runTo(start(many), 25)
  expect(column(later, 'opacity')[3]).toBeCloseTo(0.25, 6)
  expect(column(later, 'colour').slice(0, 3)).toEqual([1, 0, 0])
  // 90° about z after a second
  const [x, y, z, w] = column(later, 'orientation') as [number, number, number, number]
  expect([x, y, z, w].map((c) => Math.round(c * 1e5) / 1e5)).toEqual([0, 0, 0.70711, 0.70711])
})

test('columns that no rule needs do not exist', () => {
  const bare = start(shotOf({ births: [burst()] })).populations()[0]!.columns
  for (const name of ['travelled', 'anchor', 'birthRadius', 'opacity', 'colour', 'orientation'])
    expect(bare).not.toHaveProperty(name)
})

/** Split finely enough for masks on the surface, and no finer. */
const fine = { id: 'box', source: { asset: ASSET }, detail: 0.07 }
const front = (more: Loose = {}): Loose => ({ id: 'm', kind: 'spread', mesh: 'box', from: { ball: [0, 0.5, 0], radius: 0.2 }, speed: 1, start: 1, ragged: 0.5, raggedScale: 0.3, soft: 0.1, ...more }) // prettier-ignore

test.each([
  ['a ragged front', front()],
  ['a plane', { ...slab, position: [{ keys: [[1, -1], [70, 1]] }, 0, 0], soft: 0.2 }], // prettier-ignore
])('%s: what is swept becomes particles, to within one, and they are born where the level is', (_, mask) => {
  const swept = 5000
  const births = [burst({ amount: { swept, mask: 'm' } })]
  const simulation = start(shotOf({ births }, { masks: [mask], meshes: [fine] }))
  let born = 0
  for (let frame = 1; frame <= 90; frame++) {
    runTo(simulation, frame)
    const { populations, meshes } = simulation.measures()
    born += frame === 1 ? populations[0]!.alive : populations[0]!.born
    // at every frame the count is the area's share, and nothing is lost of the area
    expect(meshes[0]!.swept + meshes[0]!.left).toBeCloseTo(6, 5)
    expect(Math.abs(born - (swept * meshes[0]!.swept) / 6)).toBeLessThan(frame === 90 ? 1.5 : 12)
  }
  expect(Math.abs(born - swept)).toBeLessThanOrEqual(1)
})

test('area swept by a plane is the analytic one: the sides in proportion, the ends at once', () => {
  const mask = { ...slab, position: [{ keys: [[1, -0.6], [13, 0.6]] }, 0, 0], soft: 0.2 } // prettier-ignore
  const births = [burst({ amount: { swept: 100, mask: 'm' } })]
  const simulation = start(shotOf({ births }, { masks: [mask], meshes: [{ ...fine, detail: 0.04 }] }))
  for (const frame of [4, 7, 9]) {
    const x = -0.6 + ((frame - 1) / 12) * 1.2 + 0.1
    // one end and four sides up to x, of a cube from −½ to ½
    expect(runTo(simulation, frame).measures().meshes[0]!.swept).toBeCloseTo(1 + 4 * (x + 0.5), 2)
  }
  const mesh = box()
  const values = Float32Array.from({ length: 8 }, (_, v) => mesh.positions[v * 3]!)
  expect(areaAbove(mesh.positions, mesh.triangles, values, 0.25)).toBeCloseTo(1 + 4 * 0.25, 6)
})

test('births by density: as many per area as the mask says', () => {
  const mask = { id: 'm', kind: 'slab', position: [0.5, 0, 0], direction: [-1, 0, 0], soft: 1 }
  const shot = shotOf(
    { births: [burst({ amount: { burst: 20000, at: 1 }, density: 'm' })] },
    { masks: [mask], meshes: [fine] },
  )
  const side = [0, 1, 2, 3].map(() => 0)
  const position = column(start(shot), 'position')
  for (let i = 0; i < position.length; i += 3) {
    // only the sides along x: the mask is 3t² − 2t³ from x = −½ to ½
    if (Math.abs(position[i]!) < 0.499) side[Math.floor((position[i]! + 0.5) * 4)]!++
  }
  const share = (t: number): number => t ** 3 - t ** 4 / 2
  const total = side.reduce((a, b) => a + b, 0)
  side.forEach((n, k) => {
    const expected = (share((k + 1) / 4) - share(k / 4)) / share(1)
    expect(Math.abs(n / total - expected)).toBeLessThan(0.012)
  })
})

test('all of it gives the same bytes from a snapshot, and with the preview share the same particles', () => {
  const shot = shotOf(
    {
      ...held,
      births: [burst({ into: 'Held', amount: { swept: 4000, mask: 'm' } })],
      cues: [cue({ kind: 'after', frames: { mean: 6, spread: 4 } }), cue({ kind: 'mask', mask: 'n', below: 0.2 }, { id: 'd', from: 'Loose', to: 'dies' })], // prettier-ignore
      influences: [
        acting('ride', { weights: { Held: 1 } }),
        acting('turbulence', { weights: { Loose: 1 }, responses: [{ to: 'strength', from: 'goal', curve: [[0, 1], [1, 2]] }] }), // prettier-ignore
        acting('spin', { weights: { Loose: 1 } }),
        acting('size', { weights: { Loose: 1 }, responses: [{ to: 'size', from: 'random', curve: [[0, 1], [1, 0.5]] }] }), // prettier-ignore
      ],
    },
    {
      meshes: [{ ...moving.meshes[0], detail: 0.15 }],
      masks: [front(), { id: 'n', kind: 'noise', change: 0.5 }],
    },
  )
  const straight = runTo(start(shot), 30)
  const other = start(shot)
  other.restore(runTo(start(shot), 14).snapshot())
  expect(runTo(other, 30).fingerprint()).toBe(straight.fingerprint())
  const part = runTo(start(shot, box(), 0.3), 30)
  const whole = new Map(
    column(straight, 'id').map((id, i) => [id, column(straight, 'position').slice(i * 3, i * 3 + 3)]),
  )
  const position = column(part, 'position')
  column(part, 'id').forEach((id, i) => expect(position.slice(i * 3, i * 3 + 3)).toEqual(whole.get(id)))
})
