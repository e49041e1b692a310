import type { Look, PopulationFrame, Shot } from '@tangle/core'
import { atLine, FormatFault } from '../fault.ts'
import type { CachedFrame } from '../frame.ts'
import { linesOf } from '../meshes/lines.ts'
import { coloursOf } from './colours.ts'
import { plainName, type ExportKind, type Frames } from './kind.ts'

/**
 * Universal Scene Description as text: one Points prim per population, with a time sample per frame
 * for ids, points, velocities (per second), widths (diameters) and displayColor. The number of
 * points changes from frame to frame; ids tell who is who. Metres, Y up.
 * Source: the UsdGeomPoints schema of OpenUSD.
 */
export const usda: ExportKind = {
  kind: 'usda',
  label: 'USD (text)',
  help: 'One file with ids, points, velocities, widths and displayColor over time',
  sequence: false,
  async *files(shot, frames) {
    yield { name: `${plainName(shot.name)}.usda`, pieces: encodePieces(writeShot(shot, frames)) }
  },
  async *readBack(read, names) {
    for (const name of names) yield* readSamples(await read(name))
  },
}

async function* encodePieces(texts: AsyncIterable<string>): AsyncGenerator<Uint8Array> {
  const encoder = new TextEncoder()
  for await (const text of texts) yield encoder.encode(text)
}

interface Attribute {
  declaration: string
  perPoint: boolean
  width: 1 | 3
  values(population: PopulationFrame, look: Look): ArrayLike<number>
}

/** In the order in which they are written; a take is gone through once for each. */
const ATTRIBUTES: Attribute[] = [
  { declaration: 'float3[] extent', perPoint: false, width: 3, values: extent },
  { declaration: 'int64[] ids', perPoint: true, width: 1, values: ({ columns }) => columns.id! },
  { declaration: 'point3f[] points', perPoint: true, width: 3, values: ({ columns }) => columns.position! },
  {
    declaration: 'vector3f[] velocities',
    perPoint: true,
    width: 3,
    values: ({ columns }) => columns.velocity!,
  },
  {
    declaration: 'float[] widths',
    perPoint: true,
    width: 1,
    values: ({ columns }) => (columns.radius as Float32Array).map((r) => 2 * r),
  },
  {
    declaration: 'color3f[] primvars:displayColor',
    perPoint: true,
    width: 3,
    values: (population, look) => coloursOf(look, population),
  },
]
const INTERPOLATED = ['float[] widths', 'color3f[] primvars:displayColor']

async function* writeShot(shot: Shot, frames: Frames): AsyncGenerator<string> {
  const { rate } = shot.frames
  const root = plainName(shot.name)
  yield `#usda 1.0
(
    defaultPrim = "${root}"
    doc = "Written by Tangle"
    endTimeCode = ${frames.last}
    framesPerSecond = ${rate}
    metersPerUnit = 1
    startTimeCode = ${frames.first}
    timeCodesPerSecond = ${rate}
    upAxis = "Y"
)

def Xform "${root}"
{
`
  for (const { id, look } of shot.populations) {
    yield `    def Points "${plainName(id)}"\n    {\n`
    for (const attribute of ATTRIBUTES) {
      const { declaration } = attribute
      if (INTERPOLATED.includes(declaration))
        yield `        ${declaration} (\n            interpolation = "vertex"\n        )\n`
      yield `        ${declaration}.timeSamples = {\n`
      for (let frame = frames.first; frame <= frames.last; frame++) {
        const { populations } = await frames.read(frame)
        const population = populations.find((p) => p.id === id)!
        yield `            ${frame}: [`
        yield* listOf(attribute.values(population, look), attribute.width)
        yield `],\n`
      }
      yield `        }\n`
    }
    yield `    }\n`
  }
  yield `}\n`
}

/** Values per piece of text. */
const PIECE = 30000

function* listOf(values: ArrayLike<number>, width: 1 | 3): Generator<string> {
  const whole = values instanceof Uint32Array
  const write = (v: number): string => (whole ? String(v) : decimal(v))
  for (let from = 0; from < values.length; from += PIECE) {
    const words: string[] = []
    for (let i = from; i < Math.min(values.length, from + PIECE); i += width) {
      words.push(
        width === 1
          ? write(values[i]!)
          : `(${write(values[i]!)}, ${write(values[i + 1]!)}, ${write(values[i + 2]!)})`,
      )
    }
    yield (from > 0 ? ', ' : '') + words.join(', ')
  }
}

/** Nine digits carry every f32 exactly, −0 included. */
const decimal = (value: number): string =>
  Object.is(value, -0) ? '-0' : String(Number(value.toPrecision(9)))

function extent({ columns, count }: PopulationFrame): Float32Array {
  if (count === 0) return new Float32Array(6)
  const out = new Float32Array([Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity])
  for (let i = 0; i < count * 3; i++) {
    const axis = i % 3
    const radius = columns.radius![Math.floor(i / 3)]!
    out[axis] = Math.min(out[axis]!, columns.position![i]! - radius)
    out[axis + 3] = Math.max(out[axis + 3]!, columns.position![i]! + radius)
  }
  return out
}

/** Our own reader, of what our writer writes: one sample a line. */
function* readSamples(bytes: Uint8Array): Generator<CachedFrame> {
  const frames = new Map<number, Map<string, Record<string, number[]>>>()
  let prim = ''
  let attribute = ''
  let closed = 0
  for (const [line, number] of linesOf(bytes)) {
    const found = /def Points "(\w+)"/.exec(line)
    if (found) prim = found[1]!
    const declared = /^\s*\S+\[\] (?:primvars:)?(\w+)\.timeSamples = \{/.exec(line)
    if (declared) attribute = declared[1]!
    const sample = /^\s*(-?\d+): \[/.exec(line)
    if (sample) {
      if (!line.trimEnd().endsWith('],')) throw atLine(number, `the sample of "${attribute}" is cut off`)
      const values = (line.slice(sample[0].length).match(/-?[\d.]+(?:e[+-]?\d+)?/gi) ?? []).map(Number)
      const frame = Number(sample[1])
      if (!frames.has(frame)) frames.set(frame, new Map())
      const populations = frames.get(frame)!
      populations.set(prim, { ...populations.get(prim), [attribute]: values })
    }
    if (/^\}/.test(line)) closed++
  }
  if (closed === 0) throw new FormatFault('end of file', 'the last bracket is missing: the file is cut off')
  for (const [frame, populations] of frames) {
    yield {
      frame,
      populations: [...populations].map(([id, samples]) => ({
        id,
        count: samples.ids?.length ?? 0,
        columns: {
          id: Uint32Array.from(samples.ids ?? []),
          position: Float32Array.from(samples.points ?? []),
          velocity: Float32Array.from(samples.velocities ?? []),
          radius: Float32Array.from(samples.widths ?? [], (w) => w / 2),
        },
      })),
    }
  }
}
