/** A take of three frames as exporters get it, and what they write. */
import {
  completeInstances,
  completeMesh,
  readShot,
  type Mesh,
  type MeshFrame,
  type PopulationFrame,
  type Shot,
} from '@tangle/core'
import { OUR_SPACE, EXPORTS, type CachedFrame, type Frames } from '../src/index.ts'

const read = readShot({
  format: 'tangle-shot',
  version: 1,
  name: 'Two, "counts"',
  frames: { first: 3, last: 5, rate: 30 },
  populations: [
    { id: 'dust', look: { colour: { from: 'speed', range: [0, 2], ramp: 'snow' } } },
    { id: 'spray-2' },
  ],
})
export const shot = read.shot as Shot

/** A frame with its own count, ids beyond 2²⁴ and awkward numbers. */
export function frameOf(frame: number): CachedFrame {
  const population = (id: string, count: number): PopulationFrame => {
    const fill = (width: number, value: (i: number) => number) =>
      Float32Array.from({ length: count * width }, (_, i) => value(i))
    return {
      id,
      count,
      columns: {
        id: Uint32Array.from({ length: count }, (_, i) => 4_000_000_000 + i * 3 + frame),
        phase: new Uint32Array(count),
        parent: Uint32Array.from({ length: count }, (_, i) => (i % 4 ? 70_000_000 + i : 0xffffffff)),
        generation: Uint32Array.from({ length: count }, (_, i) => i % 3),
        position: fill(3, (i) => (i - 7) / 3 + frame * 1e-4),
        velocity: fill(3, (i) => (i % 2 ? 1e-12 * i : -1.5 * i)),
        age: fill(1, (i) => i / 24),
        lifespan: fill(1, (i) => (i % 2 ? Infinity : 3)),
        radius: fill(1, (i) => 0.01 + i * 1e-5),
        opacity: fill(1, (i) => (i % 3) / 2),
        orientation: fill(4, (i) => [0.5, -0.5, 0.5, 0.5][i % 4]!),
      },
    }
  }
  return {
    frame,
    populations: [population('dust', frame * 10), population('spray-2', frame === 4 ? 0 : 2)],
    meshes: [meshOf(frame)],
  }
}
/** What is left of a mesh: less in every frame, and nothing in the last. */
export function meshOf(frame: number): MeshFrame {
  const count = (5 - frame) * 2
  return {
    id: 'tower',
    positions: Float32Array.from(
      { length: (count + 2) * 3 * Math.sign(count) },
      (_, i) => Math.sqrt(i) - frame / 7,
    ),
    triangles: Uint32Array.from({ length: count * 3 }, (_, i) => Math.floor(i / 3) + (i % 3)),
  }
}
/** Frames from one to another, at each of which is what `read` says. */
export const framesFrom = (first: number, last: number, read: (frame: number) => CachedFrame): Frames => ({
  first,
  last,
  times: Array.from({ length: last - first + 1 }, (_, k) => first + k),
  digits: 4,
  space: OUR_SPACE,
  read: (frame) => Promise.resolve(read(frame)),
})
export const frames = framesFrom(3, 5, frameOf)

/** The files of a format, by name. */
export async function write(
  kind: string,
  meshes = new Map<string, Mesh>(),
  take: Frames = frames,
): Promise<Map<string, Uint8Array>> {
  const files = new Map<string, Uint8Array>()
  for await (const { name, pieces } of EXPORTS.find((one) => one.kind === kind)!.files(shot, take, meshes)) {
    const all: Uint8Array[] = []
    for await (const piece of pieces) all.push(piece)
    files.set(name, new Uint8Array(Buffer.concat(all)))
  }
  return files
}

const tetrahedron: Mesh = {
  positions: new Float32Array([0, 0, 0, 2, 0, 0, 0, 1, 0, 0, 0, 1]),
  triangles: new Uint32Array([0, 2, 1, 0, 1, 3, 0, 3, 2, 1, 2, 3]),
}
/** Points with a trail, and what is drawn as instances of two meshes. */
export async function withAll<T>(
  work: (sources: Map<string, Mesh>, steady: Frames) => Promise<T>,
): Promise<T> {
  const [dust, spray] = shot.populations
  const kept = [dust!.look, spray!.look, shot.meshes] as const
  shot.meshes = ['bolt', 'nut'].map((name) => completeMesh({ id: name, source: { asset: name } }))
  dust!.look = { ...dust!.look, trail: { length: 2, unit: 'frames', step: 1, width: 0.1, widthEnd: 0.02, colour: 'ramp', ramp: 'brine', opacityEnd: 0.5 } } // prettier-ignore
  spray!.look = { ...spray!.look, draw: 'instances', instances: completeInstances({ set: [{ mesh: 'bolt', weight: 1 }, { mesh: 'nut', weight: 2 }], size: 3 }) } // prettier-ignore
  try {
    return await work(new Map(['bolt', 'nut'].map((name) => [name, tetrahedron])), steady)
  } finally {
    ;[dust!.look, spray!.look, shot.meshes] = kept
  }
}
/** The same particles in every frame, moved on, so that trails are there. */
const steady: Frames = {
  ...frames,
  read: (frame) => {
    const now = { ...frameOf(4), frame }
    const { columns } = now.populations[0]!
    columns.position = columns.position!.map((x) => x + frame)
    return Promise.resolve(now)
  },
}

/** All files of a format, by name. */
export async function writtenFiles(
  kind: string,
  shot: Shot,
  frames: Frames,
): Promise<Map<string, Uint8Array>> {
  const files = new Map<string, Uint8Array>()
  for await (const { name, pieces } of EXPORTS.find((one) => one.kind === kind)!.files(
    shot,
    frames,
    new Map(),
  )) {
    const parts: Uint8Array[] = []
    for await (const piece of pieces) parts.push(piece)
    files.set(name, new Uint8Array(Buffer.concat(parts)))
  }
  return files
}
/** The one whose name has this in it. */
export const fileOf = (files: Map<string, Uint8Array>, part: string): Uint8Array =>
  [...files].find(([name]) => name.includes(part))![1]
