/** What lies on a mesh becomes a cover: its volume, its slopes, what melts, and what lies on top. */
import { meshFacts, weld, type Mesh, type Simulation } from '../src/index.ts'
import { acting, asset, box, column, runTo, shotOf, start } from './help.ts'

const RADIUS = 0.01
const VOLUME = (4 / 3) * Math.PI * RADIUS ** 3

/** Flakes that rain from a sheet onto a slab whose top is at 0, and what they do there. */
function rain(cover: object, { slab = {}, sheet = {}, rest = {}, particles = {} } = {}) {
  const shot = shotOf(
    {
      particle: { radius: RADIUS, density: 100 },
      births: [
        {
          id: 'b',
          kind: 'surface',
          mesh: 'sheet',
          into: 'Loose',
          amount: { burst: 1500, at: 1 },
          aim: 'direction',
          direction: [0, -1, 0],
          speed: 1,
          ...particles,
        },
      ],
      influences: [
        acting('gravity'),
        acting('collide', { mesh: 'slab', bounce: 0, friction: 5, sliding: 5 }),
        acting('cover', { mesh: 'slab', depth: 0, gathers: 2, detail: 0.1, ...cover }),
      ],
    },
    {
      quality: { substeps: 4 },
      meshes: [
        { id: 'slab', source: { asset: asset(0) }, place: { position: [0, -0.1, 0], ...slab } },
        {
          id: 'sheet',
          source: { asset: asset(1) },
          place: { position: [0, 0.3, 0], scale: [0.9, 0.01, 0.9], ...sheet },
        },
      ],
      ...rest,
    },
  )
  const given: [string, Mesh][] = [[asset(0), box(1, 0.2, 1)], [asset(1), box()]] // prettier-ignore
  return start(shot, new Map(given))
}
const volume = (simulation: Simulation): number => simulation.measures().covers[0]!.volume
/** Height of the cover over places of the slab, metres. */
function heightsOf(simulation: Simulation): { x: number; z: number; y: number }[] {
  const { positions } = simulation.meshes().find((one) => one.id === 'slab.cover')!
  return Array.from({ length: positions.length / 6 }, (_, v) => ({
    x: positions[v * 3]!,
    y: positions[v * 3 + 1]!,
    z: positions[v * 3 + 2]!,
  }))
}

test('all that lies becomes height: the volume is that of those that died, and the mesh is closed', () => {
  const simulation = runTo(rain({ repose: 80 }), 40)
  expect(simulation.measures().populations[0]!.alive).toBe(0)
  expect(volume(simulation) / (1500 * VOLUME * 2)).toBeCloseTo(1, 5)
  const cover = simulation.meshes()[0]!
  expect(meshFacts(weld(cover)).openEdges).toBe(0)
})

test('as many as make the depth stay particles, the last born of them, and lie on top of the cover', () => {
  const simulation = runTo(rain({ depth: 0.004, repose: 80 }), 60)
  const { alive } = simulation.measures().populations[0]!
  // 1500 flakes as cover over 0.81 m² would be 15.5 mm deep: 4 mm of it is about a quarter
  expect(alive / 1500).toBeGreaterThan(0.12)
  expect(alive / 1500).toBeLessThan(0.3)
  const cover = heightsOf(simulation)
  const places = column(simulation, 'position')
  for (let i = 0; i < alive; i++) {
    const [x, y, z] = places.slice(i * 3, i * 3 + 3) as [number, number, number]
    const near = cover.filter((one) => Math.hypot(one.x - x, one.z - z) < 0.09).map((one) => one.y)
    expect(y - RADIUS).toBeGreaterThan(Math.min(...near) - 0.003)
    expect(y - RADIUS).toBeLessThan(Math.max(...near) + 0.01)
  }
})

test('poured on one spot it stands at its angle of repose, no steeper', () => {
  const simulation = runTo(
    rain(
      { gathers: 12, repose: 30, detail: 0.06 },
      {
        slab: { scale: [2, 1, 2] },
        sheet: { scale: [0.06, 0.01, 0.06] },
        particles: { amount: { rate: 1500, to: 24 } },
      },
    ),
    60,
  )
  const heap = heightsOf(simulation)
  const top = Math.max(...heap.map(({ y }) => y))
  expect(top).toBeGreaterThan(0.1)
  // from the top outward: the slope of the flank between half way up and a tenth
  const ring = (level: number) => {
    const at = heap.filter(({ y }) => Math.abs(y - level * top) < 0.06 * top)
    return at.reduce((sum, { x, z }) => sum + Math.hypot(x, z), 0) / at.length
  }
  const slope = (Math.atan((0.5 * top) / (ring(0.2) - ring(0.7))) * 180) / Math.PI
  expect(slope).toBeGreaterThan(25)
  expect(slope).toBeLessThan(31)
})

test('on a roof steeper than its repose it slides down and over the eaves to what is below', () => {
  // a plank turned by 50° over a ground plate
  const shot = rain(
    { repose: 35, gathers: 4 },
    { slab: { rotation: [0, 0, 50], position: [0, 0.8, 0] }, sheet: { position: [0, 1.6, 0], scale: [0.4, 0.01, 0.8] } },
  ).shot // prettier-ignore
  const { influences } = shot.populations[0]!
  shot.meshes.push({ ...structuredClone(shot.meshes[0]!), id: 'ground', place: { position: [0, -0.1, 0], rotation: [0, 0, 0], scale: [3, 1, 3] } }) // prettier-ignore
  influences.push({ ...structuredClone(influences[2]!), id: 'on-ground', mesh: 'ground' })
  const simulation = start(shot, new Map([[asset(0), box(1, 0.2, 1)], [asset(1), box()]])) // prettier-ignore
  runTo(simulation, 30)
  const [roof, ground] = [0, 1].map((n) => simulation.measures().covers[n]!.volume) as [number, number]
  expect(roof).toBeGreaterThan(0)
  runTo(simulation, 160)
  const later = simulation.measures().covers
  // what the roof has lost lies below its lower edge
  expect(later[0]!.volume).toBeLessThan(roof / 4)
  expect(later[1]!.volume).toBeGreaterThan(ground)
  expect((later[0]!.volume + later[1]!.volume) / (1500 * VOLUME * 4)).toBeGreaterThan(0.9)
})

test('it melts where the mask says, at the rate that is given', () => {
  const masks = [{ id: 'warm', kind: 'slab', position: [0, 0, 0], direction: [1, 0, 0], soft: 0 }]
  const melts = { repose: 85, melt: { keys: [[40, 0, 'hold'], [41, 0.24]] }, meltMask: 'warm', gathers: 8 } // prettier-ignore
  const simulation = runTo(rain(melts, { rest: { masks } }), 40)
  const whole = volume(simulation)
  runTo(simulation, 80)
  const left = heightsOf(simulation)
  expect(volume(simulation) / whole).toBeCloseTo(0.5, 1)
  for (const { x, y } of left) if (x < -0.11) expect(y).toBeLessThan(1e-3)
})

test('a covered shot goes on from a snapshot to the same bytes', () => {
  const straight = runTo(rain({ depth: 0.003 }), 20)
  const snapshot = straight.snapshot()
  const resumed = rain({ depth: 0.003 })
  resumed.restore(snapshot)
  runTo(straight, 34)
  runTo(resumed, 34)
  expect(resumed.fingerprint()).toBe(straight.fingerprint())
  expect(resumed.meshes()[0]!.positions).toEqual(straight.meshes()[0]!.positions)
})

test('a cover that rises fast buries nobody: who is there goes up with it', () => {
  const simulation = rain(
    { gathers: 60, depth: 0.02, repose: 34, detail: 0.08 },
    { slab: { scale: [2, 1, 2] }, sheet: { position: [0, 0.9, 0] }, particles: { amount: { rate: 900, to: 40 } } }, // prettier-ignore
  )
  for (let frame = 2; frame <= 50; frame++) {
    simulation.advance()
    const { contact, alive, speed } = simulation.measures().populations[0]!
    expect([frame, (contact?.inside ?? 0) <= 0.002 * alive, speed.most < 5]).toEqual([frame, true, true])
  }
  expect(simulation.measures().covers[0]!.deepest).toBeGreaterThan(0.15)
})

test('a mirrored mesh, and a sheet that looks down, gather as much as any', () => {
  const whole = volume(runTo(rain({ repose: 80 }), 40))
  const mirrored = runTo(rain({ repose: 80 }, { slab: { scale: [-1, 1, 1] } }), 40)
  expect(volume(mirrored) / whole).toBeCloseTo(1, 5)
  expect(meshFacts(weld(mirrored.meshes()[0]!)).openEdges).toBe(0)

  const sheet: Mesh = {
    positions: new Float32Array([-0.5, 0.1, -0.5, 0.5, 0.1, -0.5, 0.5, 0.1, 0.5, -0.5, 0.1, 0.5]),
    triangles: new Uint32Array([0, 1, 2, 0, 2, 3]), // clockwise from above
  }
  const { shot } = rain({ repose: 80 })
  shot.populations[0]!.influences[1]!.side = 'either'
  const simulation = runTo(start(shot, new Map([[asset(0), sheet], [asset(1), box()]])), 40) // prettier-ignore
  expect(volume(simulation) / whole).toBeCloseTo(1, 5)
  // the cover stands on it: its top is above, turned up
  const { positions: p, triangles } = simulation.meshes()[0]!
  const [a, b, c] = [0, 1, 2].map((k) => triangles[k]! * 3) as [number, number, number]
  const up = (p[b + 2]! - p[a + 2]!) * (p[c]! - p[a]!) - (p[b]! - p[a]!) * (p[c + 2]! - p[a + 2]!)
  expect(up).toBeGreaterThan(0)
})
