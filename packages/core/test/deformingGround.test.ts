/** Rigid bodies on meshes that do not keep their shape: carried, thrown, and never through them. */
import { patchesOf, motionOfPatch } from '../src/constraints/rigidPatches.ts'
import { turnBy, rotate } from '../src/math/quaternion.ts'
import { add, type Vector } from '../src/math/vector.ts'
import { G } from './bondHelp.ts'
import { asset, box, sheet, sphere } from './help.ts'
import { brokenShot, meshesOf, simulate } from './rigidHelp.ts'

type Loose = Record<string, unknown>
const GROUND = asset(4)
const influences = (more: Loose = {}): Loose[] => [
  { id: 'g', kind: 'gravity', weights: { Free: 1 } },
  { id: 'r', kind: 'rigid', weights: { Free: 1 }, bounce: 0, friction: 0.8, sliding: 0.8, spinDamping: 0 },
  { id: 'c', kind: 'collide', mesh: 'ground', weights: { Free: 1 }, bounce: 0, friction: 0.8, sliding: 0.8, ...more },
] // prettier-ignore

/** One flat block of a size on ground that deforms. */
async function standing(size: number, place: Loose, at: Vector, mesh = box(), substeps = 5, more: Loose = {}, ground: Loose = {}) {
  const shot = brokenShot({ pieces: 1 }, { influences: influences(more) }, {
    frames: { first: 1, last: 400, rate: 24 }, quality: { substeps, iterations: 6 },
    meshes: [{ id: 'ground', source: { asset: GROUND }, place, ...ground }],
  }, { position: at }) // prettier-ignore
  const simulation = await simulate(shot, await meshesOf(shot, box(size, size / 4, size), { [GROUND]: mesh }))
  const seen = (name: string): Vector => [...(simulation.populations()[0]!.columns as Record<string, Float32Array>)[name]!.subarray(0, 3)] as Vector // prettier-ignore
  return { simulation, seen }
} // prettier-ignore

test.each([[0.02, 5], [0.5, 5], [0.5, 12], [20, 5]])('a mesh that grows under a block of %d m throws it as high as its top was fast, at %d substeps', async (size, substeps) => {
  const speed = 1.5 * Math.sqrt(G * size)
  const frames = Math.max(2, Math.round(24 * (2 * size) / speed))
  const rise = (speed * frames) / 24
  const heights = { keys: [[1, 2 * size], [3, 2 * size], [3 + frames, 2 * size + 2 * rise]] }
  // centred on 0, its top is at half its height
  const place = { scale: [8 * size, heights, 8 * size] }
  const { simulation, seen } = await standing(size, place, [0.3 * size, size + size / 8 + 0.001 * size, 0.2 * size], box(), substeps)
  let [most, fastest] = [0, 0]
  for (let n = 0; n < frames + 6 + (24 * speed) / G; n++) {
    simulation.advance()
    most = Math.max(most, seen('position')[1])
    fastest = Math.max(fastest, seen('velocity')[1])
  }
  expect(fastest / speed).toBeGreaterThan(0.9)
  expect(fastest / speed).toBeLessThan(1.12)
  const top = size + rise + size / 8 + speed ** 2 / (2 * G)
  expect(most / top).toBeGreaterThan(0.9)
  expect(most / top).toBeLessThan(1.1)
}) // prettier-ignore

test.each([0.02, 10])('ground that stretches takes a block of %d m along by friction', async (size) => {
  // slow enough for friction to keep up from the start
  const frames = Math.round(60 * Math.max(1, Math.sqrt(size)))
  const wide = { keys: [[1, 10 * size], [1 + frames, 16 * size]] }
  const { simulation, seen } = await standing(size, { scale: [wide, 1, 10 * size] }, [3 * size, size / 8, 0], sheet(24, 1), 5, { side: 'either' })
  for (let n = 0; n < frames - 10; n++) simulation.advance()
  const grown = 1 + (0.6 * (frames - 10)) / frames
  expect(seen('position')[0] / (3 * size * grown)).toBeCloseTo(1, 1)
  const speed = (3 * 0.6 * size * 24) / frames
  expect(seen('velocity')[0] / speed).toBeGreaterThan(0.8)
  expect(seen('velocity')[0] / speed).toBeLessThan(1.2)
}) // prettier-ignore

/** Pieces of a block on a sheet with waves that run up. */
async function onWaves(size: number, substeps: number) {
  const ripple = { id: 'w', kind: 'ripple', amount: 0.5 * size, wavelength: 4 * size, speed: 2 * Math.sqrt(G * size), direction: [0, 1, 0] } // prettier-ignore
  const shot = brokenShot({ pieces: 25 }, { influences: influences({ side: 'either' }) }, {
    frames: { first: 1, last: 400, rate: 24 }, quality: { substeps, iterations: 5 },
    meshes: [{ id: 'ground', source: { asset: GROUND }, deform: [ripple] }],
  }, { position: [0, 1.2 * size, 0] }) // prettier-ignore
  const meshes = await meshesOf(shot, box(size, size, size), { [GROUND]: sheet(40, 30 * size) })
  return () => simulate(shot, meshes)
}
test.each([[0.05, 4], [1, 10]])('waves of a sheet of %d m lift pieces and let none through, at %d substeps', async (size, substeps) => {
  const simulation = await (await onWaves(size, substeps))()
  for (let n = 0; n < 36; n++) simulation.advance()
  const { count, columns } = simulation.populations()[0]!
  const places = columns.position as Float32Array
  for (let i = 0; i < count; i++) expect(places[i * 3 + 1]! / size).toBeGreaterThan(-0.6)
}, 60_000) // prettier-ignore
test('a computation goes on to the bit in the midst of waves', async () => {
  const begin = await onWaves(0.3, 3)
  const [whole, resumed] = [await begin(), await begin()]
  for (let n = 0; n < 14; n++) whole.advance()
  resumed.restore(structuredClone(whole.snapshot()))
  for (const one of [whole, resumed]) for (let n = 0; n < 8; n++) one.advance()
  expect(resumed.fingerprint()).toBe(whole.fingerprint())
})

test('patches hold every triangle once; how each moves is what moves it, for turns and shifts', () => {
  const mesh = sphere(24)
  const patches = patchesOf(mesh)
  expect(patches.length).toBeGreaterThan(10)
  const seen = patches.flatMap(({ vertices, triangles }) => Array.from({ length: triangles.length / 3 }, (_, t) => [...triangles.subarray(t * 3, t * 3 + 3)].map((v) => vertices[v]!).join())) // prettier-ignore
  const all = Array.from({ length: mesh.triangles.length / 3 }, (_, t) => [...mesh.triangles.subarray(t * 3, t * 3 + 3)].join()) // prettier-ignore
  expect(seen.sort()).toEqual(all.sort())
  const turn: Vector = [0.002, -0.001, 0.003]
  const moved = mesh.positions.slice()
  for (let v = 0; v < moved.length; v += 3) {
    const p = [...mesh.positions.subarray(v, v + 3)] as Vector
    moved.set(add(rotate(turnBy(turn), p), [0.1, 0.2, -0.3]), v)
  }
  for (const patch of patches) {
    const motion = motionOfPatch(patch, mesh.positions, moved)
    turn.forEach((x, k) => expect(motion.turn[k]).toBeCloseTo(x, 4))
    expect(motion.to[0]! - motion.from[0]!).toBeCloseTo(0.1, 2)
  }
})
