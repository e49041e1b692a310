import { atLine, FormatFault } from '../fault.ts'
import type { CachedFrame } from '../frame.ts'
import { linesOf } from '../meshes/lines.ts'

type Samples = Record<string, number[]>

/** Our own reader, of what our writer writes: one sample a line. */
export function* readSamples(bytes: Uint8Array): Generator<CachedFrame> {
  const frames = new Map<number, Map<string, Samples>>()
  let prim = ''
  let attribute = ''
  let closed = 0
  for (const [line, number] of linesOf(bytes)) {
    const found = /def (Points|PointInstancer|Mesh|BasisCurves) "(\w+)"/.exec(line)
    if (found) prim = `${found[1]} ${found[2]}`
    const declared = /^\s*\S+\[\] (?:primvars:)?(\w+)\.timeSamples = \{/.exec(line)
    if (declared) attribute = declared[1]!
    const sample = /^\s*(-?\d+): \[/.exec(line)
    if (sample) {
      if (!line.trimEnd().endsWith('],')) throw atLine(number, `the sample of "${attribute}" is cut off`)
      const values = (line.slice(sample[0].length).match(/-?[\d.]+(?:e[+-]?\d+)?/gi) ?? []).map(Number)
      const frame = Number(sample[1])
      const prims = frames.get(frame) ?? new Map<string, Samples>()
      prims.set(prim, { ...prims.get(prim), [attribute]: values })
      frames.set(frame, prims)
    }
    if (/^\}/.test(line)) closed++
  }
  if (closed === 0) throw new FormatFault('end of file', 'the last bracket is missing: the file is cut off')
  for (const [frame, prims] of frames) yield frameOf(frame, prims)
}

function frameOf(frame: number, all: Map<string, Samples>): CachedFrame {
  const prims = (kind: string) =>
    [...all].flatMap(([name, samples]) =>
      name.startsWith(`${kind} `) ? [{ id: name.slice(kind.length + 1), samples }] : [],
    )
  return {
    frame,
    populations: [...prims('Points'), ...prims('PointInstancer')].map(({ id, samples }) => ({
      id,
      count: samples.ids?.length ?? 0,
      columns: {
        id: Uint32Array.from(samples.ids ?? []),
        position: Float32Array.from(samples.points ?? samples.positions ?? []),
        ...(samples.velocities ? { velocity: Float32Array.from(samples.velocities) } : {}),
        ...(samples.widths ? { radius: Float32Array.from(samples.widths, (w) => w / 2) } : {}),
      },
    })),
    meshes: prims('Mesh').map(({ id, samples }) => ({
      id: id.replace(/_mesh$/, ''),
      positions: Float32Array.from(samples.points ?? []),
      triangles: Uint32Array.from(samples.faceVertexIndices ?? []),
    })),
  }
}
