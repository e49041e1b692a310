/** Shots of blocks that bonds hold together. */
import type { Mesh, Shot, Simulation, Vector } from '../src/index.ts'
import { ASSET, box, shotOf } from './help.ts'

type Loose = Record<string, unknown>
export const G = 9.80665

/** A bar of equal blocks about the origin, side by side along x, y and z, as a broken mesh. */
export function blocks([nx, ny, nz]: Vector, [wide, high, deep]: Vector): Mesh {
  const size: Vector = [wide / nx, high / ny, deep / nz]
  const one = box(...size)
  const corners = one.positions.length / 3
  const middles: Vector[] = []
  for (let x = 0; x < nx; x++)
    for (let y = 0; y < ny; y++)
      for (let z = 0; z < nz; z++)
        middles.push([(x + 0.5) * size[0] - wide / 2, (y + 0.5) * size[1] - high / 2, (z + 0.5) * size[2] - deep / 2]) // prettier-ignore
  const positions = new Float32Array(middles.flatMap((m) => [...one.positions].map((p, k) => p + m[k % 3]!)))
  const triangles = new Uint32Array(middles.flatMap((_, k) => [...one.triangles].map((v) => v + k * corners)))
  const number = (x: number, y: number, z: number): number => (x * ny + y) * nz + z
  const faces: { pair: [number, number]; axis: number; centre: Vector }[] = []
  middles.forEach((m, k) => {
    const place = [Math.floor(k / (ny * nz)), Math.floor(k / nz) % ny, k % nz] as Vector
    for (let axis = 0; axis < 3; axis++) {
      if (place[axis]! + 1 >= [nx, ny, nz][axis]!) continue
      const next = place.map((x, i) => x + (i === axis ? 1 : 0)) as Vector
      const centre = m.map((x, i) => x + (i === axis ? size[axis]! / 2 : 0)) as Vector
      faces.push({ pair: [k, number(...next)], axis, centre })
    }
  })
  const unitOf = (axis: number): Vector => [0, 1, 2].map((i) => (i === axis ? 1 : 0)) as Vector
  // in the plane of a face: the longer side, about which it bends most easily, and the shorter
  const sides = (axis: number): [number, number] =>
    [0, 1, 2].filter((i) => i !== axis).sort((a, b) => size[b]! - size[a]!) as [number, number]
  return {
    positions,
    triangles,
    pieces: {
      starts: Uint32Array.from({ length: middles.length + 1 }, (_, k) => (k * one.triangles.length) / 3),
      inner: new Uint8Array(triangles.length / 3),
      seeds: new Float32Array(0),
      hulls: {
        firsts: Uint32Array.from({ length: middles.length + 1 }, (_, k) => k),
        starts: Uint32Array.from({ length: middles.length + 1 }, (_, k) => k * 8),
        points: Float32Array.from(middles.flatMap((m) => Array.from({ length: 8 }, (_, c) => m.map((x, i) => x + ((c >> i) & 1 ? 0.5 : -0.5) * size[i]!)).flat())), // prettier-ignore
      },
      bonds: {
        pairs: Uint32Array.from(faces.flatMap(({ pair }) => pair)),
        areas: Float32Array.from(faces, ({ axis }) => sides(axis).reduce((a, i) => a * size[i]!, 1)),
        centres: Float32Array.from(faces.flatMap(({ centre }) => centre)),
        normals: Float32Array.from(faces.flatMap(({ axis }) => unitOf(axis))),
        axes: Float32Array.from(faces.flatMap(({ axis }) => unitOf(sides(axis)[0]))),
        moments: Float32Array.from(faces.flatMap(({ axis }) => {
          const [long, short] = sides(axis).map((i) => size[i]!) as [number, number]
          return [(long * short ** 3) / 12, (short * long ** 3) / 12, short / 2, long / 2]
        })), // prettier-ignore
      },
    },
  }
}

export const gravity = (weights: Loose = { Free: 1, Held: 1 }, strength?: number): Loose => ({ id: 'g', kind: 'gravity', weights, ...(strength === undefined ? {} : { strength }) }) // prettier-ignore
export const body = (more: Loose = {}): Loose => ({ id: 'r', kind: 'rigid', weights: { Free: 1 }, spinDamping: 0, bounce: 0, ...more }) // prettier-ignore
export const bonded = (more: Loose = {}): Loose => ({ id: 'bonds', kind: 'bonds', weights: { Held: 1, Free: 1 }, varies: 0, ...more }) // prettier-ignore

/** Pieces of one mesh; those in a box, by default none, are held. */
export function bondedShot(influences: Loose[], rest: Loose = {}, place: Loose = {}, population: Loose = {}): Shot {
  const { meshes = [], ...more } = rest
  return shotOf(
    {
      id: 'bits',
      phases: ['Free', 'Held'],
      particle: { density: 1000 },
      births: [{ id: 'b', kind: 'pieces', mesh: 'box', into: 'Free', amount: { burst: 'all', at: 1 } }],
      influences,
      look: { draw: 'pieces' },
      ...population,
    },
    { meshes: [{ id: 'box', source: { asset: ASSET }, place }, ...(meshes as Loose[])], ...more },
  )
} // prettier-ignore

export interface Seen {
  count: number
  position(i: number): Vector
  velocity(i: number): Vector
  spin(i: number): Vector
  stress: Float32Array
  radius: Float32Array
}
export function look(simulation: Simulation, n = 0): Seen {
  const { count, columns } = simulation.populations()[n]!
  const at = (name: 'position' | 'velocity' | 'angularVelocity') => (i: number): Vector => {
    const values = columns[name] as Float32Array
    return [values[i * 3]!, values[i * 3 + 1]!, values[i * 3 + 2]!]
  }
  return { count, position: at('position'), velocity: at('velocity'), spin: at('angularVelocity'), stress: columns.stress as Float32Array, radius: columns.radius as Float32Array }
} // prettier-ignore
