import type { Mesh, Shot } from '@tangle/core'
import { plainName, type ExportKind, type Frames } from './kind.ts'
import { UNITS } from './space.ts'
import { framesIn, readText } from './usdReader.ts'
import { listOf } from './usdText.ts'
import { MESH_ATTRIBUTES, MESH_UNIFORMS, primsOf, type UsdAttribute, type UsdPrim } from './usdSchema.ts'

/** Universal Scene Description as text, one file; what is in it says usdSchema.ts. */
export const usda: ExportKind = {
  kind: 'usda',
  label: 'USD (text)',
  help: 'One file with ids, points, velocities, widths and displayColor over time, to read and to change by hand',
  sequence: false,
  meshes: true,
  async *files(shot, frames, meshes) {
    yield { name: `${plainName(shot.name)}.usda`, pieces: encodePieces(writeShot(shot, frames, meshes)) }
  },
  async *readBack(read, names) {
    for (const name of names) yield* framesIn(readText(await read(name)))
  },
}

async function* encodePieces(texts: AsyncIterable<string>): AsyncGenerator<Uint8Array> {
  const encoder = new TextEncoder()
  for await (const text of texts) yield encoder.encode(text)
}

async function* writeShot(shot: Shot, frames: Frames, sources: Map<string, Mesh>): AsyncGenerator<string> {
  const { rate } = shot.frames
  const root = plainName(shot.name)
  yield `#usda 1.0
(
    defaultPrim = "${root}"
    doc = "Written by Tangle"
    endTimeCode = ${frames.last}
    framesPerSecond = ${rate}
    metersPerUnit = ${UNITS[frames.space.unit]}
    startTimeCode = ${frames.first}
    timeCodesPerSecond = ${rate}
    upAxis = "${frames.space.up.toUpperCase()}"
)

def Xform "${root}"
{
`
  for (const prim of await primsOf(shot, frames, sources)) {
    yield `    def ${prim.type} "${prim.name}"\n    {\n`
    for (const [name, token] of prim.uniforms) yield `        uniform token ${name} = "${token}"\n`
    for (const attribute of prim.attributes) yield* writeAttribute(prim, attribute, frames)
    yield* writePrototypes(`/${root}/${prim.name}`, prim)
    yield `    }\n`
  }
  yield `}\n`
}

/** A take is gone through once for each attribute. */
async function* writeAttribute(
  { samples }: UsdPrim,
  { declaration, width, interpolation, values }: UsdAttribute<unknown>,
  frames: Frames,
): AsyncGenerator<string> {
  if (interpolation)
    yield `        ${declaration} (\n            interpolation = "${interpolation}"\n        )\n`
  yield `        ${declaration}.timeSamples = {\n`
  for await (const { frame, sample } of samples(frames)) {
    yield `            ${frame}: [`
    yield* listOf(inOrder(declaration, values(sample)), width)
    yield `],\n`
  }
  yield `        }\n`
}

/** In text a quaternion begins with its real part. */
const inOrder = (declaration: string, values: ArrayLike<number>): ArrayLike<number> =>
  declaration.startsWith('quat')
    ? Float32Array.from({ length: values.length }, (_, i) => values[i % 4 === 0 ? i + 3 : i - 1]!)
    : values

/** The meshes of a PointInstancer, below it, where they are not drawn for themselves. */
function* writePrototypes(path: string, { prototypes }: UsdPrim): Generator<string> {
  if (prototypes.length === 0) return
  yield `        rel prototypes = [${prototypes.map(({ name }) => `<${path}/${name}>`).join(', ')}]\n`
  for (const { name, mesh } of prototypes) {
    yield `        def Mesh "${name}"\n        {\n`
    for (const [uniform, token] of MESH_UNIFORMS) yield `            uniform token ${uniform} = "${token}"\n`
    for (const { declaration, width, values } of MESH_ATTRIBUTES) {
      yield `            ${declaration} = [`
      yield* listOf(values(mesh), width)
      yield `]\n`
    }
    yield `        }\n`
  }
}
