import type { PopulationFrame, Shot } from '@tangle/core'
import { FormatFault } from '../fault.ts'
import type { CachedFrame } from '../frame.ts'
import { readPly, writePlyPoints } from '../ply.ts'
import { coloursOf } from './colours.ts'
import type { ExportKind } from './kind.ts'

const AXES = ['x', 'y', 'z'] as const

/**
 * A sequence of binary PLY files, one per population and frame: x y z (m), vx vy vz (m/s),
 * radius (m), age (s), id, phase and red green blue. Y is up.
 */
export const ply: ExportKind = {
  kind: 'ply',
  label: 'PLY sequence',
  help: 'One binary file per frame: positions, velocities, radii, ids, ages and colours',
  sequence: true,
  async *files(shot, frames) {
    for (let frame = frames.first; frame <= frames.last; frame++) {
      const { populations } = await frames.read(frame)
      for (const population of populations) {
        const name = `${population.id}.${String(frame).padStart(4, '0')}.ply`
        yield { name, pieces: once(writeFrame(shot, population, frame)) }
      }
    }
  },
  async *readBack(read, names) {
    const frames = new Map<number, string[]>()
    for (const name of names) {
      const frame = Number(/\.(-?\d+)\.ply$/.exec(name)?.[1])
      frames.set(frame, [...(frames.get(frame) ?? []), name])
    }
    for (const [frame, files] of frames) {
      const populations: PopulationFrame[] = []
      for (const file of files) populations.push(readPoints(file, await read(file)))
      yield { frame, populations } satisfies CachedFrame
    }
  },
}

async function* once(bytes: Uint8Array): AsyncGenerator<Uint8Array> {
  yield bytes
}

function writeFrame(shot: Shot, population: PopulationFrame, frame: number): Uint8Array {
  const { look } = shot.populations.find((p) => p.id === population.id)!
  const { columns, count } = population
  const part = (values: Float32Array | Uint32Array, axis: number): Float32Array =>
    Float32Array.from({ length: count }, (_, i) => values[i * 3 + axis]!)
  const colours = coloursOf(look, population)
  return writePlyPoints(
    [
      ...AXES.map((name, axis) => ({ name, values: part(columns.position!, axis) })),
      ...AXES.map((name, axis) => ({ name: `v${name}`, values: part(columns.velocity!, axis) })),
      { name: 'radius', values: columns.radius! },
      { name: 'age', values: columns.age! },
      { name: 'id', values: columns.id! },
      { name: 'phase', values: Uint8Array.from(columns.phase!) },
      ...['red', 'green', 'blue'].map((name, k) => ({
        name,
        values: Uint8Array.from({ length: count }, (_, i) => encodeSrgb(colours[i * 3 + k]!)),
      })),
    ],
    [
      `Tangle ${shot.name.replace(/[\r\n]/g, ' ')}, ${population.id}, frame ${frame}`,
      'metres, metres per second, Y up',
    ],
  )
}

/** 0–255 by the sRGB transfer (IEC 61966-2-1). */
function encodeSrgb(linear: number): number {
  const s = linear <= 0.0031308 ? linear * 12.92 : 1.055 * linear ** (1 / 2.4) - 0.055
  return Math.round(Math.min(1, Math.max(0, s)) * 255)
}

function readPoints(name: string, bytes: Uint8Array): PopulationFrame {
  const vertex = readPly(bytes).find((e) => e.name === 'vertex')
  if (!vertex) throw new FormatFault(name, 'has no vertices')
  const need = (column: string): Float64Array => {
    const values = vertex.columns[column]
    if (!values) throw new FormatFault(name, `has no property "${column}"`)
    return values
  }
  const weave = (names: string[]): Float32Array => {
    const parts = names.map(need)
    return Float32Array.from({ length: vertex.count * 3 }, (_, i) => parts[i % 3]![Math.floor(i / 3)]!)
  }
  return {
    id: name.replace(/\.-?\d+\.ply$/, ''),
    count: vertex.count,
    columns: {
      id: Uint32Array.from(need('id')),
      position: weave(['x', 'y', 'z']),
      velocity: weave(['vx', 'vy', 'vz']),
      radius: Float32Array.from(need('radius')),
    },
  }
}
