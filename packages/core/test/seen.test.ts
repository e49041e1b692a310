/** Hits of rays as events, patterns of rays, what stands in their way, and what has been seen: against closed forms, from millimetres to hundreds of metres. */
import { createMachine } from '@tangle/kernels'
import { createSimulation, readShot, rowsOf, type Mesh, type ParticleEvent, type Shot, type Simulation, type Vector } from '../src/index.ts' // prettier-ignore
import { asset, box, points, runTo, sheet, sphere } from './help.ts'
import { acts, distance, family, familyOf, ones, run, type Family } from './offspringHelp.ts'

type Loose = Record<string, unknown>

/** One parent at the origin, on "box", whose rays go down to "target" at a depth. */
const scanOf = (far: number, bears: Loose = {}, target: Loose = {}, more: Family = {}): Family => ({
  parents: { births: [{ id: 'b', kind: 'vertices', mesh: 'box', into: 'Loose', amount: { burst: 'all', at: 1 }, inherit: 0 }], influences: [acts('ride')] },
  wake: { influences: [acts('ride')] },
  bears: { mesh: 'target', laid: 'ray', reach: 10 * far, aim: 'direction', direction: [0, -1, 0], amount: { rate: 2400 }, stagger: 0, ...bears },
  ...more,
  rest: { meshes: [{ id: 'target', source: { asset: asset(1) }, place: { position: [0, -far, 0] }, ...target }, ...((more.rest?.meshes as Loose[]) ?? [])], ...without(more.rest, 'meshes') },
}) // prettier-ignore
const without = (of: Loose = {}, name: string): Loose => Object.fromEntries(Object.entries(of).filter(([key]) => key !== name)) // prettier-ignore
const hits = (simulation: Simulation): ParticleEvent[] =>
  rowsOf(simulation.events().find(({ id }) => id === 'parents')!).filter(({ kind }) => kind === 'hit')
/** All hits up to a frame. */
function hitsUntil(simulation: Simulation, frame: number): ParticleEvent[] {
  const all = hits(simulation)
  while (simulation.frame < frame) {
    simulation.advance()
    all.push(...hits(simulation))
  }
  return all
}
/** A square of 4 triangles or more with U along x and V along z, from 0 to 1. */
function chart(n: number, wide: number): Mesh {
  const mesh = sheet(n, wide)
  const uvs = Float32Array.from([...mesh.triangles].flatMap((v) => [mesh.positions[v * 3]! / wide + 0.5, mesh.positions[v * 3 + 2]! / wide + 0.5])) // prettier-ignore
  return { ...mesh, uvs }
}
const at = (place: Loose): Loose => ({ place })

test.each([0.004, 1, 300])('a hit is an event of who casts the ray: place, normal, triangle, UV and distance, at a size of %d m', (size) => {
  const shot = family(scanOf(2 * size, { cone: 20 }))
  const simulation = run(shot, points([0, 0, 0]), [chart(6, 4 * size)])
  const all = hitsUntil(simulation, 13)
  expect(all.length).toBe(ones(simulation).length)
  expect(all.length).toBe(1200)
  const [parent] = ones(simulation, 'parents')
  for (const { particle, of, other, place, normal, uv, distance: far, frame } of all) {
    expect([particle, of]).toEqual([parent!.id, 'target'])
    expect(place[1] / size).toBeCloseTo(-2, 4)
    expect(normal[1]).toBeCloseTo(1, 5)
    expect(far / Math.hypot(...place)).toBeCloseTo(1, 4)
    expect(uv[0]).toBeCloseTo(place[0] / (4 * size) + 0.5, 3)
    expect(uv[1]).toBeCloseTo(place[2] / (4 * size) + 0.5, 3)
    // two triangles a cell
    const cell = [uv[0], uv[1]].map((x) => Math.floor(x * 6))
    expect(Math.floor(other / 2)).toBe(cell[0]! * 6 + cell[1]!)
    expect(frame).toBeGreaterThan(1)
  }
}) // prettier-ignore

test('births at a hit: so many each, by chance, around it; and rays that are cast at hits do not go on for ever', () => {
  const spark = (more: Loose): Loose => ({ id: 'sparks', phases: ['Loose'], particle: { radius: 0.01 }, births: [{ id: 's', kind: 'particles', from: 'parents', into: 'Loose', amount: { event: 'hit', count: 3 }, ...more }] }) // prettier-ignore
  const made = (more: Loose): Simulation => {
    const given = familyOf(scanOf(2, { amount: { rate: 240 } })) as { populations: Loose[] }
    const read = readShot({ ...given, populations: [...given.populations, spark(more)] })
    if (read.problems) throw new Error(JSON.stringify(read.problems))
    return runTo(run(read.shot, points([0, 0, 0]), [sheet(4, 8)]), 25)
  }
  const plain = made({ scatter: 0.2, mesh: 'target' })
  expect(ones(plain).length).toBe(240)
  const sparks = ones(plain, 'sparks')
  expect(sparks.length).toBe(720)
  for (const { position } of sparks) {
    expect(position[1]).toBeCloseTo(-2, 5)
    expect(Math.hypot(position[0], position[2])).toBeLessThan(0.2001)
  }
  const few = ones(made({ amount: { event: 'hit', count: 1, chance: 0.25 } }), 'sparks').length
  expect(Math.abs(few - 60)).toBeLessThan(25)
  // cast again from where it met, along the surface's normal
  const again = made({ amount: { event: 'hit', count: 1 }, mesh: 'target', laid: 'ray', aim: 'direction', direction: [0, -1, 0], offset: [0, 1, 0] }) // prettier-ignore
  expect(ones(again, 'sparks').length).toBeLessThanOrEqual(240)
})

test('every other mesh keeps rays off, also that on which the parent is; one mesh only that one', () => {
  const screens = [[-1.5, -2], [1.5, -3]].map(([x, y], n) => ({ id: `screen${n}`, source: { asset: asset(2) }, ...at({ position: [x, y, 0] }) })) // prettier-ignore
  const met = (bears: Loose) => {
    const shot = family(scanOf(5, { cone: 30, ...bears }, {}, { rest: { meshes: screens } }))
    return ones(runTo(run(shot, points([0, 0, 0]), [sheet(2, 30), sheet(1, 2)]), 13))
  }
  /** In the shadow of a screen 2 m wide about x at a depth, on the ground at −5. */
  const isShaded = ({ position: [x, , z] }: { position: Vector }, at: number, depth: number): boolean =>
    Math.abs((x * depth) / 5 - at) < 1 && Math.abs((z * depth) / 5) < 1
  const inShade = (all: ReturnType<typeof met>, at: number, depth: number) =>
    all.filter((one) => isShaded(one, at, depth)).length
  const free = met({})
  expect(inShade(free, -1.5, 2)).toBeGreaterThan(20)
  expect(inShade(free, 1.5, 3)).toBeGreaterThan(20)
  const one = met({ behind: 'screen0' })
  expect([inShade(one, -1.5, 2), inShade(one, 1.5, 3) > 20]).toEqual([0, true])
  const none = met({ blocked: 'all' })
  expect([inShade(none, -1.5, 2), inShade(none, 1.5, 3)]).toEqual([0, 0])
  expect(none.length).toBe(free.length - free.filter((ray) => isShaded(ray, -1.5, 2) || isShaded(ray, 1.5, 3)).length) // prettier-ignore
})

test.each([0.01, 1, 200])('a device of %d m is in the way of its own rays: none off its upper side comes through', (size) => {
  const births = [{ id: 'b', kind: 'surface', mesh: 'box', into: 'Loose', amount: { burst: 600, at: 1 }, inherit: 0 }]
  const shot = family(scanOf(4 * size, { blocked: 'all', amount: { rate: 24 } }, {}, { parents: { births, influences: [acts('ride')] } }))
  const simulation = runTo(run(shot, box(size, size, size), [sheet(2, 20 * size)]), 25)
  const bottom = ones(simulation, 'parents').filter(({ position }) => position[1] < -0.499 * size)
  expect(bottom.length).toBeGreaterThan(60)
  const parents = new Set(ones(simulation).map(({ parent }) => parent))
  // on the very edges rounding decides
  const inner = bottom.filter(({ position: [x, , z] }) => Math.max(Math.abs(x), Math.abs(z)) < 0.49 * size)
  for (const { id } of inner) expect(parents.has(id)).toBe(true)
  // rays down the sides graze them, those off the top do not come through
  const top = ones(simulation, 'parents').filter(({ position }) => position[1] > 0.499 * size)
  expect(top.length).toBeGreaterThan(60)
  for (const { id } of top) expect(parents.has(id)).toBe(false)
}) // prettier-ignore

test.each([[{ aim: 'surface' }], [{ direction: [1, 0, 0], axes: 'parent' }]])('rays turn with the mesh that their particles ride on: %j', (how) => {
  // a plate that looks along x, in a tube; it turns about the vertical by 90° in a second
  const plate = sheet(1, 0.1)
  const upright: Mesh = { ...plate, positions: plate.positions.map((_, i, p) => (i % 3 === 0 ? 0 : i % 3 === 1 ? p[i - 1]! : p[i]!)) }
  const births = [{ id: 'b', kind: 'surface', mesh: 'box', into: 'Loose', amount: { burst: 3, at: 1 }, inherit: 0 }]
  const given = scanOf(2, { amount: { rate: 480 }, ...how }, at({ position: [0, 0, 0], scale: [2, 2, 2] }), { parents: { births, influences: [acts('ride')] } })
  const shot = family(given)
  shot.meshes[0]!.place.rotation = [0, { keys: [[1, 0], [25, 90]] }, 0]
  const simulation = run(shot, upright, [sphere(60)])
  const sign = Math.sign(hitsUntil(simulation, 4)[0]!.place[0])
  const all = hitsUntil(simulation, 24)
  expect(all.length).toBeGreaterThan(1000)
  for (const { place, frame } of all) {
    // +x turns towards −z
    const turn = ((frame - 1) / 24) * (Math.PI / 2)
    const [x, z] = [sign * Math.cos(turn), -sign * Math.sin(turn)]
    expect(distance([place[0] / 2, 0, place[2] / 2], [x, 0, z])).toBeLessThan(0.06)
  }
}) // prettier-ignore

test('a fan is flat and evenly filled, and so is a cone, however many rays there are', () => {
  const angles = (rate: number): number[] => {
    const shot = family(scanOf(2, { amount: { rate }, cone: 40, pattern: 'fan', fan: [1, 0, 0.5] }))
    return hitsUntil(run(shot, points([0, 0, 0]), [sheet(2, 20)]), 25).map(({ place: [x, y, z] }) => {
      const along = (x + 0.5 * z) / Math.hypot(1, 0.5)
      expect((z - 0.5 * x) / Math.hypot(1, 0.5)).toBeCloseTo(0, 4)
      return (Math.atan2(along, -y) * 180) / Math.PI
    })
  }
  for (const rate of [50, 333, 2400]) {
    const sorted = angles(rate).sort((a, b) => a - b)
    expect(sorted.length).toBeGreaterThanOrEqual(rate - 1)
    const gaps = sorted.slice(1).map((x, k) => x - sorted[k]!)
    // by the golden ratio a gap is at most the largest of three lengths (Steinhaus), below 2.7 of the mean
    expect(Math.max(...gaps)).toBeLessThan((2.7 * 80) / rate)
    expect(sorted.at(-1)! - sorted[0]!).toBeGreaterThan(80 - 320 / rate)
  }
  const shot = family(scanOf(2, { amount: { rate: 2400 }, cone: 40, pattern: 'even' }))
  const rays = hitsUntil(run(shot, points([0, 0, 0]), [sheet(2, 20)]), 25)
  // rings of equal solid angle and six sectors: each has its share, far closer than chance would have it
  const counts = new Array<number>(24).fill(0)
  for (const { place: [x, y, z] } of rays) {
    const ring = Math.floor((4 * (1 + y / Math.hypot(x, y, z))) / (1 - Math.cos((40 * Math.PI) / 180)))
    const sector = Math.floor((Math.atan2(z, x) / (2 * Math.PI) + 0.5) * 6)
    const cell = Math.min(3, ring) * 6 + Math.min(5, sector)
    counts[cell] = counts[cell]! + 1
  }
  for (const n of counts) expect(Math.abs(n - 100)).toBeLessThan(12)
}) // prettier-ignore

test.each([1, 3])('a target that flies by is met where it is at the moment of the ray, at %d substeps', (substeps) => {
  // 48 m/s: two metres a frame; a ray meets the sheet where that is just then above the origin
  const target = at({ position: [{ keys: [[1, -48], [49, 48]] }, -2, 0] })
  const shot = family(scanOf(2, { amount: { rate: 480 } }, target, { rest: { quality: { substeps } } }))
  const simulation = run(shot, points([0, 0, 0]), [chart(4, 200)])
  const all = hitsUntil(simulation, 25)
  expect(all.length).toBeGreaterThan(470)
  for (const { frame, uv, place } of all) {
    expect(place[0]).toBeCloseTo(0, 3)
    const middle = -48 + 2 * (frame - 1)
    expect((uv[0] - 0.5) * 200).toBeCloseTo(-middle, 2)
  }
}) // prettier-ignore

test('rays towards places of a target that flies by meet it all the same', () => {
  const target = at({ position: [{ keys: [[1, -48], [49, 48]] }, -20, 0] })
  const shot = family(scanOf(20, { aim: 'target', amount: { rate: 480 } }, target, { rest: { quality: { substeps: 1 } } }))
  const all = hitsUntil(run(shot, points([0, 0, 0]), [chart(1, 1)]), 49)
  // none is lost but at the edges
  expect(all.length).toBeGreaterThan(0.99 * 960)
}) // prettier-ignore

/** A ball of radius r at a distance from the eye, and a mask that knows what has been seen of it. */
const gazed = (r: number, far: number, soft: number, rate: number): Shot =>
  family(scanOf(far, { amount: { rate }, aim: 'target' }, { place: { position: [0, -far, 0], scale: [r, r, r] } }, { rest: { masks: [{ id: 'seen', kind: 'seen', mesh: 'target', soft }] } })) // prettier-ignore

test.each([
  [1, 1.5],
  [1, 3],
  [0.003, 0.012],
  [80, 4000],
])('of a ball of radius %d m a point %d m off sees the cap ½(1 − r/d), within 1 %', (r, far) => {
  const simulation = runTo(run(gazed(r, far, 0.03 * r, 48_000), points([0, 0, 0]), [sphere(120)]), 25)
  const [found] = simulation.measures().seen!
  expect(found!.mesh).toBe('target')
  // the mask is one half half its soft width beyond the last rays: they thin out towards the rim
  expect(Math.abs(found!.share - (1 - r / far) / 2)).toBeLessThan(0.01)
})

/** Values of a mask at particles' places, after what a simulation has seen so far. */
function valuesAt(simulation: Simulation, places: Vector[], frame = simulation.frame + 1e-3): Float32Array {
  const { machine, masks } = simulation.world
  const count = places.length
  const [positions, out] = [machine.heap.allocate(count * 12), machine.heap.allocate(count * 4)]
  machine.heap.f32(positions, count * 3).set(places.flat())
  masks.write('seen', { count, positions, frame }, out)
  return machine.heap.f32(out, count).slice()
}

test('what has been seen is as fine as the rays are, on two triangles as well: the distance to the nearest hit, at once, not before', () => {
  const masks = [{ id: 'seen', kind: 'seen', mesh: 'target', soft: 0.4 }]
  const shot = family(scanOf(2, { amount: { rate: 60 }, cone: 40 }, {}, { rest: { masks } }))
  const simulation = run(shot, points([0, 0, 0]), [sheet(1, 8)])
  const places = hitsUntil(simulation, 13).map(({ place }) => place)
  const asked = Array.from({ length: 400 }, (_, k): Vector => [((k % 20) / 19 - 0.5) * 5, -1.6, (Math.floor(k / 20) / 19 - 0.5) * 5]) // prettier-ignore
  const values = valuesAt(simulation, asked)
  asked.forEach(([x, , z], k) => {
    const near = Math.min(...places.map((place) => Math.hypot(place[0] - x, place[2] - z)))
    // of hits closer than a quarter of the soft width one is kept
    const [low, high] = [1 - (near + 0.1 * Math.SQRT2) / 0.4, 1 - near / 0.4]
    expect(values[k]).toBeGreaterThanOrEqual(Math.max(0, low) - 1e-4)
    expect(values[k]).toBeLessThanOrEqual(Math.max(0, high) + 1e-4)
  })
  // nothing had been seen at the beginning, and it is not forgotten
  expect(Math.max(...valuesAt(simulation, asked, 1))).toBe(0)
  expect(valuesAt(runTo(simulation, 40), asked).every((value, k) => value >= values[k]! - 1e-6)).toBe(true)
})

test('the mask goes along with its mesh, and what it says makes particles change: the same after a resume', () => {
  const target = at({ position: [{ keys: [[1, 0], [49, 6]] }, -2, 0], rotation: [0, { keys: [[1, 0], [49, 200]] }, 0] }) // prettier-ignore
  const given = familyOf(scanOf(2, { amount: { rate: 2000 }, cone: 15 }, target, { rest: { masks: [{ id: 'seen', kind: 'seen', mesh: 'target', soft: 0.3 }], quality: { substeps: 2 } } })) as { populations: Loose[] } // prettier-ignore
  const moss = { id: 'moss', phases: ['Dark', 'Lit'], particle: { radius: 0.01 }, births: [{ id: 'm', kind: 'surface', mesh: 'target', into: 'Dark', amount: { burst: 6000, at: 1 } }], cues: [{ id: 'lit', from: 'Dark', to: 'Lit', when: { kind: 'mask', mask: 'seen', above: 0.5 } }], influences: [{ id: 'ride', kind: 'ride', weights: { Dark: 1, Lit: 1 } }] } // prettier-ignore
  const read = readShot({ ...given, populations: [...given.populations, moss] })
  if (read.problems) throw new Error(JSON.stringify(read.problems))
  const simulation = run(read.shot, points([0, 0, 0]), [sheet(8, 16)])
  const all = hitsUntil(simulation, 20)
  const halfway = simulation.snapshot()
  all.push(...hitsUntil(simulation, 30))
  const { columns, count } = simulation.populations().find(({ id }) => id === 'moss')!
  const lit = [...columns.phase!].filter((phase) => phase === 1).length
  expect(lit).toBeGreaterThan(80)
  expect(lit).toBeLessThan(count / 2)
  // by hits as places of the sheet, which turns under the eye: u and v follow from the triangle only here, so from the frame
  const onSheet = (place: Vector, frame: number): [number, number] => {
    const share = Math.max(0, (frame - 1) / 48)
    const [x, z] = [place[0] - 6 * share, place[2]]
    const turn = (share * 200 * Math.PI) / 180
    return [x * Math.cos(turn) - z * Math.sin(turn), x * Math.sin(turn) + z * Math.cos(turn)]
  }
  const met = all.map(({ place, frame }) => onSheet(place, frame))
  for (let i = 0; i < count; i++) {
    const [x, z] = onSheet([0, 1, 2].map((k) => columns.position![i * 3 + k]!) as Vector, 30)
    const near = Math.min(...met.map(([a, b]) => Math.hypot(a - x, b - z)))
    if (near > 0.17) expect([i, columns.phase![i]]).toEqual([i, 0])
    if (near < 0.05) expect([i, columns.phase![i]]).toEqual([i, 1])
  }
  const print = simulation.fingerprint()
  const again = createSimulation(createMachine(), read.shot, simulationMeshes(simulation), { from: halfway })
  expect(runTo(again, 30).fingerprint()).toBe(print)
  simulation.restore(halfway)
  expect(runTo(simulation, 30).fingerprint()).toBe(print)
})

/** The meshes that a simulation was made with. */
const simulationMeshes = ({ world }: Simulation): Map<string, Mesh> =>
  new Map(world.shot.meshes.map(({ id, source }) => [(source as { asset: string }).asset, world.bodies.get(id)!.mesh])) // prettier-ignore
