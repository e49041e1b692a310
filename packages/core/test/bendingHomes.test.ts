/** Pieces of meshes that move, turn and bend in their files: held they go along, home they fit again; shells go along, too. */
import { createMachine } from '@tangle/kernels'
import type { Mesh, Vector } from '../src/index.ts'
import { massProperties, sourceKey } from '../src/index.ts'
import { quaternionOf, rotate, turnBy, type Quaternion } from '../src/math/quaternion.ts'
import { add, length, subtract, vectorOf } from '../src/math/vector.ts'
import { turnThatFits } from '../src/scene/piecePoses.ts'
import { createScene } from '../src/simulation/scene.ts'

import { brokenShot, meshesOf, simulate, solid } from './rigidHelp.ts'

type Loose = Record<string, unknown>
const SAMPLES = 61

/** A mesh whose vertices are moved by a map at each sample, one for each frame. */
function moving(mesh: Mesh, map: (p: Vector, t: number) => Vector): Mesh {
  const places = Array.from({ length: SAMPLES }, (_, n) => {
    const out = new Float32Array(mesh.positions.length)
    for (let v = 0; v < out.length / 3; v++) out.set(map(vectorOf(mesh.positions, v), n / (SAMPLES - 1)), v * 3)
    return out
  }) // prettier-ignore
  return { ...mesh, positions: places[0]!, motion: { rate: null, count: SAMPLES, by: { places }, middles: new Uint32Array(0) } } // prettier-ignore
}

const rigidly = (t: number): { turned: Quaternion; by: Vector } => ({
  turned: turnBy([0, 1.2 * t, 0.7 * t]),
  by: [0.5 * t, 0.3 * t * t, -0.2 * t],
})
/** A bar along x bends to an arc in x and y; its middle line keeps its length. */
function bent([x, y, z]: Vector, angle: number): Vector {
  if (angle === 0) return [x, y, z]
  const radius = 1 / angle
  return [(radius - y) * Math.sin(x / radius), radius - (radius - y) * Math.cos(x / radius), z]
}

/** Held for 10 frames, then let go with a push, led home from frame 20 on. */
const flight = (more: Loose = {}): Loose => ({
  phases: ['Held', 'Out', 'Home'],
  births: [{ id: 'b', kind: 'pieces', mesh: 'broken', into: 'Held', amount: { burst: 'all', at: 1 } }],
  cues: [
    { id: 'c', from: 'Held', to: 'Out', when: { kind: 'after', frames: 10 } },
    { id: 'd', from: 'Out', to: 'Home', when: { kind: 'after', frames: 10 } },
  ],
  influences: [
    { id: 'ride', kind: 'ride', weights: { Held: 1 } },
    { id: 'r', kind: 'rigid', weights: { Out: 1 } },
    { id: 'p', kind: 'attract', point: [0, 5, 0], strength: 4, falloff: 'none', weights: { Out: 1 } },
    { id: 'h', kind: 'dock', speed: 6, ease: 0.2, turn: 2000, weights: { Home: 1 } },
  ],
  ...more,
})
async function fly(mesh: Mesh, place: Loose = {}, rest: Loose = {}) {
  const shot = brokenShot({ pieces: 14 }, flight(), { frames: { first: 1, last: 100, rate: 24 }, quality: { substeps: 3, iterations: 4 }, ...rest }, place) // prettier-ignore
  const meshes = await meshesOf(shot, mesh)
  const broken = meshes.get(sourceKey(shot.meshes[1]!.source, shot))!
  return { shot, meshes, broken, simulation: await simulate(shot, meshes) }
}
type Flight = Awaited<ReturnType<typeof fly>>
const poseOf = ({ simulation }: Flight, i: number) => {
  const { columns } = simulation.populations()[0]!
  return { place: vectorOf(columns.position as Float32Array, i), turned: quaternionOf(columns.orientation as Float32Array, i) } // prettier-ignore
}
const degrees = (a: Quaternion, b: Quaternion): number =>
  (360 / Math.PI) * Math.acos(Math.min(1, Math.abs(a.reduce((sum, x, k) => sum + x * b[k]!, 0))))

test('pieces of a mesh that moves as a whole in its file are where it is, held and home again', async () => {
  const map = (p: Vector, t: number): Vector => add(rotate(rigidly(t).turned, p), rigidly(t).by)
  const one = await fly(moving(await solid((of) => of.cube([1, 1, 1], true).refine(4)), map))
  const worst = (frame: number): [way: number, turn: number] => {
    const { turned, by } = rigidly((frame - 1) / (SAMPLES - 1))
    const all = massProperties(one.broken, [1, 1, 1]).map(({ centre }, i) => {
      const pose = poseOf(one, i)
      return [length(subtract(pose.place, add(rotate(turned, centre), by))), degrees(pose.turned, turned)] as const // prettier-ignore
    })
    return [Math.max(...all.map(([way]) => way)), Math.max(...all.map(([, turn]) => turn))]
  }
  while (one.simulation.frame < 9) one.simulation.advance()
  expect(worst(9)[0]).toBeLessThan(1e-4)
  expect(worst(9)[1]).toBeLessThan(0.1)
  while (one.simulation.frame < 20) one.simulation.advance()
  expect(worst(20)[0]).toBeGreaterThan(0.05)
  while (one.simulation.frame < 58) one.simulation.advance()
  expect(worst(58)[0]).toBeLessThan(1e-4)
  expect(worst(58)[1]).toBeLessThan(0.1)
})

test.each([0.01, 1, 40])('pieces of a bar of %d m that bends turn with their part of it', async (size) => {
  const bar = await solid((of) => of.cube([1, 0.1, 0.1], true).translate([0.5, 0, 0]).refineToLength(0.03).scale(size)) // prettier-ignore
  const map = (p: Vector, t: number): Vector => bent(p.map((x) => x / size) as Vector, 1.5 * t).map((x) => x * size) as Vector // prettier-ignore
  const one = await fly(moving(bar, map))
  while (one.simulation.frame < 55) one.simulation.advance()
  const angle = 1.5 * (54 / (SAMPLES - 1))
  massProperties(one.broken, [1, 1, 1]).forEach(({ centre }, i) => {
    const { place, turned } = poseOf(one, i)
    const [x] = centre.map((c) => c / size)
    const wanted = bent(centre.map((c) => c / size) as Vector, angle)
    expect(length(subtract(place.map((c) => c / size) as Vector, wanted))).toBeLessThan(0.01)
    expect(degrees(turned, turnBy([0, 0, x! * angle]))).toBeLessThan(3)
  })
})

test('pieces of a mesh that grows go to where they belong', async () => {
  const grows = [1, 1, 1].map((s) => ({ keys: [[1, s], [60, 2 * s]] })) // prettier-ignore
  const one = await fly(await solid((of) => of.cube([1, 1, 1], true).refine(4)), { scale: grows })
  while (one.simulation.frame < 60) one.simulation.advance()
  massProperties(one.broken, [1, 1, 1]).forEach(({ centre }, i) => {
    expect(length(subtract(poseOf(one, i).place, centre.map((c) => 2 * c) as Vector))).toBeLessThan(1e-3)
  })
})

test('a shell of a mesh that moves in its file goes along and keeps its gap', async () => {
  const bar = moving(await solid((of) => of.cube([1, 0.2, 0.2], true).translate([0.5, 0, 0]).refineToLength(0.05)), (p, t) => bent(p, 1.2 * t)) // prettier-ignore
  const shell = { id: 'shell', source: { shell: { mesh: 'box', gap: 0.03, thickness: 0.03 } } }
  const shot = brokenShot({ pieces: 1, mesh: 'shell' }, {}, { meshes: [shell], frames: { first: 1, last: 61, rate: 24 } }) // prettier-ignore
  const meshes = await meshesOf(shot, bar)
  const { bodies } = createScene(createMachine(), shot, meshes, new Set(['box', 'shell', 'broken']))
  const made = meshes.get(sourceKey(shot.meshes.find(({ id }) => id === 'shell')!.source, shot))!
  for (const frame of [1, 31, 61]) {
    const inner = bodies.get('box')!.worldView(frame).slice()
    const outer = bodies.get('shell')!.worldView(frame).slice()
    let nearest = Infinity
    for (let v = 0; v < outer.length / 3; v += 7)
      for (let w = 0; w < inner.length / 3; w++)
        nearest = Math.min(nearest, length(subtract(vectorOf(outer, v), vectorOf(inner, w))))
    expect(nearest).toBeGreaterThan(0.02)
    expect(nearest).toBeLessThan(0.05)
  }
  // what is made of a shell is bound in turn
  expect(made.motion!.count).toBe(SAMPLES)
  expect(bodies.get('broken')!.deforms).toBe(true)
})

test('the turn that fits a map is found from afar, and of flat pieces', () => {
  const turned = turnBy([0.4, -1.1, 0.8])
  const stretched = (x: number, y: number, z: number): [Vector, Vector, Vector] => [rotate(turned, [x, 0, 0]), rotate(turned, [0, y, 0]), rotate(turned, [0, 0, z])] // prettier-ignore
  for (const columns of [stretched(1, 1, 1), stretched(2, 1, 0.5), stretched(1, 1, 0)])
    expect(degrees(turnThatFits(columns, [0, 0, 0, 1]), turned)).toBeLessThan(0.01)
})
