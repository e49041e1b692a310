import type { Mesh, Shot } from '@tangle/core'
import { plainName, type ExportKind, type Frames } from './kind.ts'
import { UNITS } from './space.ts'
import { framesIn, readText } from './usdReader.ts'
import { BINDING, BINDING_SCHEMA, MATERIAL, OUTPUT, SHADER, SHADER_ID } from './usdMaterials.ts'
import { listOf } from './usdText.ts'
import { MESH_ATTRIBUTES, MESH_UNIFORMS } from './usdMeshes.ts'
import type { UsdAttribute, UsdPrim } from './usdPrim.ts'
import { primsOf } from './usdSchema.ts'

/** Universal Scene Description as text, one file; what is in it says usdSchema.ts. */
export const usda: ExportKind = {
  kind: 'usda',
  label: 'USD (text)',
  help: 'One file with ids, points, velocities, widths and displayColor over time, to read and to change by hand',
  sequence: false,
  meshes: true,
  between: true,
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

/** What a layer says of itself, and what its prims lie in. `more` is said of that. */
export const headOf = (shot: Shot, { first, last, space }: Frames, more = ''): string => `#usda 1.0
(
    defaultPrim = "${plainName(shot.name)}"
    doc = "Written by Tangle"
    endTimeCode = ${last}
    framesPerSecond = ${shot.frames.rate}
    metersPerUnit = ${UNITS[space.unit]}
    startTimeCode = ${first}
    timeCodesPerSecond = ${shot.frames.rate}
    upAxis = "${space.up.toUpperCase()}"
)

def Xform "${plainName(shot.name)}"${more}
{
`

async function* writeShot(shot: Shot, frames: Frames, sources: Map<string, Mesh>): AsyncGenerator<string> {
  const root = plainName(shot.name)
  yield headOf(shot, frames)
  for (const prim of await primsOf(shot, frames, sources)) {
    yield `    def ${prim.type} "${prim.name}"${schemaOf(prim)}\n    {\n`
    yield uniformsOf(prim)
    for (const attribute of prim.attributes) yield* writeAttribute(prim, attribute, frames)
    yield* writePrototypes(`/${root}/${prim.name}`, prim)
    yield materialIn(`/${root}/${prim.name}`, prim)
    yield `    }\n`
  }
  yield `}\n`
}

export const uniformsOf = ({ uniforms }: UsdPrim): string =>
  uniforms.map(([name, token]) => `        uniform token ${name} = "${token}"\n`).join('')
/** Whatever may be bound to a material. */
type Bindable = { material?: UsdPrim['material'] | null }
/** What a prim says before its brackets. */
export const schemaOf = ({ material }: Bindable): string =>
  material ? ` (\n        prepend apiSchemas = ["${BINDING_SCHEMA}"]\n    )` : ''

/** The material of a mesh, below it. */
export function materialIn(path: string, { material }: Bindable): string {
  if (!material) return ''
  const inputs = material.map(({ declaration, values }) => {
    const value = values.length === 1 ? numberText(values[0]!) : `(${values.map(numberText).join(', ')})`
    return `                ${declaration} = ${value}\n`
  })
  return `        rel ${BINDING} = <${path}/${MATERIAL}>
        def Material "${MATERIAL}"
        {
            token ${OUTPUT}.connect = <${path}/${MATERIAL}/${SHADER}.${OUTPUT}>
            def Shader "${SHADER}"
            {
                uniform token ${SHADER_ID[0]} = "${SHADER_ID[1]}"
${inputs.join('')}                token ${OUTPUT}
            }
        }
`
}
const numberText = (x: number): string => String(Math.fround(x))

/** What a renderer is told of the values between points. */
export const toldOf = ({ interpolation }: UsdAttribute<unknown>): string =>
  interpolation ? ` (\n            interpolation = "${interpolation}"\n        )` : ''

/** A take is gone through once for each attribute. */
async function* writeAttribute(
  { samples }: UsdPrim,
  attribute: UsdAttribute<unknown>,
  frames: Frames,
): AsyncGenerator<string> {
  const { declaration, width, values } = attribute
  if (attribute.constant) return yield* writeConstant(samples(frames), attribute)
  if (attribute.interpolation) yield `        ${declaration}${toldOf(attribute)}\n`
  yield `        ${declaration}.timeSamples = {\n`
  for await (const { time, sample } of samples(frames)) {
    yield `            ${time}: [`
    yield* listOf(inOrder(declaration, values(sample)), width)
    yield `],\n`
  }
  yield `        }\n`
}

/** Once, as it is at the first time. */
async function* writeConstant(
  samples: AsyncIterable<{ sample: unknown }>,
  attribute: UsdAttribute<unknown>,
): AsyncGenerator<string> {
  for await (const { sample } of samples) {
    yield `        ${attribute.declaration} = [`
    yield* listOf(attribute.values(sample), attribute.width)
    yield `]${toldOf(attribute)}\n`
    return
  }
}

/** In text a quaternion begins with its real part. */
const inOrder = (declaration: string, values: ArrayLike<number>): ArrayLike<number> =>
  declaration.startsWith('quat')
    ? Float32Array.from({ length: values.length }, (_, i) => values[i % 4 === 0 ? i + 3 : i - 1]!)
    : values

/** The meshes of a PointInstancer, below it, where they are not drawn for themselves. */
export function* writePrototypes(path: string, { prototypes }: UsdPrim): Generator<string> {
  if (prototypes.length === 0) return
  yield `        rel prototypes = [${prototypes.map(({ name }) => `<${path}/${name}>`).join(', ')}]\n`
  for (const { name, mesh, material } of prototypes) {
    yield `        def Mesh "${name}"${deeper(schemaOf({ material }))}\n        {\n`
    for (const [uniform, token] of MESH_UNIFORMS) yield `            uniform token ${uniform} = "${token}"\n`
    for (const { declaration, width, values } of MESH_ATTRIBUTES) {
      yield `            ${declaration} = [`
      yield* listOf(values(mesh), width)
      yield `]\n`
    }
    yield deeper(`\n${materialIn(`${path}/${name}`, { material })}`).slice(1)
    yield `        }\n`
  }
}
/** A level further in; what begins on a line goes on there. */
const deeper = (text: string): string => text.replace(/(?<=\n)(?=.)/g, '    ')
