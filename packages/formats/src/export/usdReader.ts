import { atLine, FormatFault } from '../fault.ts'
import type { CachedFrame } from '../frames/cachedFrame.ts'
import { linesOf } from '../meshes/lines.ts'

type Samples = Record<string, number[]>

/** What a prim is at each frame, by the names of its attributes without "primvars:". */
export interface PrimSamples {
  type: string
  id: string
  samples: Map<number, Samples>
}

/** Our own reader, of what our writer writes: one sample a line. */
export function readText(bytes: Uint8Array): PrimSamples[] {
  const prims: PrimSamples[] = []
  let attribute = ''
  let closed = 0
  for (const [line, number] of linesOf(bytes)) {
    const found = /def (Points|PointInstancer|Mesh|BasisCurves) "(\w+)"/.exec(line)
    if (found) prims.push({ type: found[1]!, id: found[2]!, samples: new Map() })
    const told = /^\s*uniform token userProperties:id = "(.*)"$/.exec(line)
    if (told) prims.at(-1)!.id = told[1]!
    const declared = /^\s*\S+\[\] (?:primvars:)?(\w+)\.timeSamples = \{/.exec(line)
    if (declared) attribute = declared[1]!
    const sample = /^\s*(-?[\d.]+): \[/.exec(line)
    if (sample) {
      if (!line.trimEnd().endsWith('],')) throw atLine(number, `the sample of "${attribute}" is cut off`)
      const values = (line.slice(sample[0].length).match(/-?[\d.]+(?:e[+-]?\d+)?/gi) ?? []).map(Number)
      const frame = Number(sample[1])
      const { samples } = prims.at(-1)!
      samples.set(frame, { ...samples.get(frame), [attribute]: values })
    }
    if (/^\}/.test(line)) closed++
  }
  if (closed === 0) throw new FormatFault('end of file', 'the last bracket is missing: the file is cut off')
  return prims
}

/** The frames of a take, as its prims hold them. */
export function* framesIn(all: PrimSamples[]): Generator<CachedFrame> {
  const prims = all.filter(({ samples }) => samples.size > 0)
  const frames = new Set(prims.flatMap(({ samples }) => [...samples.keys()]))
  for (const frame of frames)
    yield frameOf(
      frame,
      prims.map(({ type, id, samples }) => ({ type, id, samples: samples.get(frame) ?? {} })),
    )
}

function frameOf(frame: number, all: { type: string; id: string; samples: Samples }[]): CachedFrame {
  return {
    frame,
    populations: all
      .filter(({ type }) => type === 'Points' || type === 'PointInstancer')
      .map(({ id, samples }) => ({
        id,
        count: samples.ids?.length ?? 0,
        columns: {
          id: Uint32Array.from(samples.ids ?? []),
          position: Float32Array.from(samples.points ?? samples.positions ?? []),
          ...(samples.velocities ? { velocity: Float32Array.from(samples.velocities) } : {}),
          ...(samples.widths ? { radius: Float32Array.from(samples.widths, (w) => w / 2) } : {}),
        },
      })),
    meshes: all
      .filter(({ type }) => type === 'Mesh')
      .map(({ id, samples }) => ({
        id,
        positions: Float32Array.from(samples.points ?? []),
        triangles: Uint32Array.from(samples.faceVertexIndices ?? []),
      })),
  }
}
