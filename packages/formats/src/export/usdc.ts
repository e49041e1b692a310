import type { Mesh, Shot } from '@tangle/core'
import { createCrate, SPEC, typeOf, type Crate, type Fields } from './crate.ts'
import type { Value } from './crateBytes.ts'
import { readCrate } from './crateReader.ts'
import { keepingLast, plainName, type ExportKind, type Frames } from './kind.ts'
import { UNITS } from './space.ts'
import { framesIn } from './usdReader.ts'
import {
  BINDING,
  BINDING_SCHEMA,
  MATERIAL,
  OUTPUT,
  SHADER,
  SHADER_ID,
  type MaterialInput,
} from './usdMaterials.ts'
import { MESH_ATTRIBUTES, MESH_UNIFORMS } from './usdMeshes.ts'
import type { UsdPrim } from './usdPrim.ts'
import { primsOf } from './usdSchema.ts'

/** Universal Scene Description as a crate, one file of binary numbers; what is in it says usdSchema.ts. */
export const usdc: ExportKind = {
  kind: 'usdc',
  label: 'USD (crate)',
  help: 'One binary file with ids, points, velocities, widths and displayColor over time, quick to read',
  sequence: false,
  meshes: true,
  between: true,
  async *files(shot, frames, meshes) {
    yield { name: `${plainName(shot.name)}.usdc`, pieces: writeCrate(shot, frames, meshes) }
  },
  async *readBack(read, names) {
    for (const name of names) yield* framesIn(readCrate(await read(name)))
  },
}

/** The head says where the tables are, so a take is gone through twice: once to find out. */
async function* writeCrate(
  shot: Shot,
  frames: Frames,
  sources: Map<string, Mesh>,
): AsyncGenerator<Uint8Array> {
  const measured = piecesOf(shot, frames, sources, 0)
  let step = await measured.next()
  while (!step.done) step = await measured.next()
  yield* piecesOf(shot, frames, sources, step.value)
}

/** Yields the bytes of a crate whose tables are found at `tocOffset`. Returns where they are found. */
async function* piecesOf(
  shot: Shot,
  frames: Frames,
  sources: Map<string, Mesh>,
  tocOffset: number,
): AsyncGenerator<Uint8Array, number> {
  const crate = createCrate(tocOffset)
  const once = keepingLast(frames)
  const prims = (await primsOf(shot, once, sources)).map((prim) => samplingOf(prim, once))
  for (const time of frames.times) {
    for (const one of prims) await sampleAt(crate, one, time)
    yield* crate.pieces.splice(0)
  }
  writeStage(crate, shot, frames, prims)
  const toc = crate.finish()
  yield* crate.pieces.splice(0)
  return toc
}

/** A prim that is gone through, with what has been written of it. */
export interface Sampling {
  prim: UsdPrim
  steps: AsyncIterator<{ sample: unknown }>
  times: number[]
  /** Of each attribute at each of them. */
  values: Value[][]
}
export const samplingOf = (prim: UsdPrim, frames: Frames): Sampling => ({
  prim,
  steps: prim.samples(frames)[Symbol.asyncIterator](),
  times: [],
  values: prim.attributes.map(() => []),
})

/** Writes what a prim is at the next time; of trails there is nothing between frames. */
export async function sampleAt(
  crate: Crate,
  { prim, steps, times, values }: Sampling,
  time: number,
): Promise<void> {
  if (prim.wholeFrames && !Number.isInteger(time)) return
  const { sample } = (await steps.next()).value as { sample: unknown }
  times.push(time)
  prim.attributes.forEach((one, n) =>
    values[n]!.push(crate.value.array(typeOf(one.declaration), one.values(sample))),
  )
}

/** What the samples belong to. */
export function writeStage(crate: Crate, shot: Shot, frames: Frames, prims: Sampling[]): void {
  const root = crate.path(null, '')
  const top = crate.path(root, plainName(shot.name))
  writeRoot(crate, root, shot, frames)
  crate.spec(top, SPEC.prim, primFields(crate, 'Xform', { primChildren: prims.map(({ prim }) => prim.name) }))
  for (const { prim, times, values } of prims)
    writePrim(
      crate,
      crate.path(top, prim.name),
      prim,
      values.map((all) => crate.value.samples(times, all)),
    )
}

function writeRoot({ spec, value }: Crate, root: number, shot: Shot, { first, last, space }: Frames): void {
  const { rate } = shot.frames
  const name = plainName(shot.name)
  spec(root, SPEC.root, {
    defaultPrim: value.token(name),
    documentation: value.string('Written by Tangle'),
    endTimeCode: value.double(last),
    framesPerSecond: value.double(rate),
    metersPerUnit: value.double(UNITS[space.unit]),
    startTimeCode: value.double(first),
    timeCodesPerSecond: value.double(rate),
    upAxis: value.token(space.up.toUpperCase()),
    primChildren: value.tokens([name]),
  })
}

function primFields({ value }: Crate, type: string, lists: Record<string, string[]>): Fields {
  const some = Object.entries(lists).filter(([, list]) => list.length > 0)
  return {
    specifier: value.specifier(),
    typeName: value.token(type),
    ...Object.fromEntries(some.map(([field, list]) => [field, value.tokens(list)])),
  }
}

/** `samples` are those of each attribute. */
function writePrim(crate: Crate, path: number, prim: UsdPrim, samples: Value[]): void {
  const { spec, value } = crate
  const { type, uniforms, attributes, prototypes, material } = prim
  const own = [...uniforms.map(([name]) => name), ...attributes.map(({ declaration }) => nameOf(declaration))]
  if (prototypes.length > 0) own.push('prototypes')
  if (material) own.push(BINDING)
  const below = [...prototypes.map(({ name }) => name), ...(material ? [MATERIAL] : [])]
  spec(path, SPEC.prim, {
    ...primFields(crate, type, { properties: own, primChildren: below }),
    ...(material ? { apiSchemas: value.prepended([BINDING_SCHEMA]) } : {}),
  })
  writeUniforms(crate, path, uniforms)
  attributes.forEach(({ declaration, interpolation }, n) =>
    writeAttribute(crate, path, declaration, {
      ...(interpolation ? { interpolation: value.token(interpolation) } : {}),
      timeSamples: samples[n]!,
    }),
  )
  if (material) writeMaterial(crate, path, material)
  if (prototypes.length === 0) return
  const targets = prototypes.map((one) => writePrototype(crate, crate.path(path, one.name), one))
  spec(crate.path(path, 'prototypes', true), SPEC.relationship, {
    variability: value.uniform(),
    targetPaths: value.paths(targets),
  })
}

/** A material with its shader below a mesh, which is bound to it. */
function writeMaterial(crate: Crate, mesh: number, inputs: MaterialInput[]): void {
  const { spec, path, value } = crate
  const material = path(mesh, MATERIAL)
  const shader = path(material, SHADER)
  const output = path(shader, OUTPUT, true)
  const token = value.token('token')
  spec(path(mesh, BINDING, true), SPEC.relationship, { variability: value.uniform(), targetPaths: value.paths([material]) }) // prettier-ignore
  spec(material, SPEC.prim, primFields(crate, 'Material', { properties: [OUTPUT], primChildren: [SHADER] }))
  spec(path(material, OUTPUT, true), SPEC.attribute, { typeName: token, connectionPaths: value.paths([output]) }) // prettier-ignore
  const names = inputs.map(({ declaration }) => nameOf(declaration))
  spec(shader, SPEC.prim, primFields(crate, 'Shader', { properties: [SHADER_ID[0], ...names, OUTPUT] }))
  writeUniforms(crate, shader, [SHADER_ID])
  for (const { declaration, values } of inputs)
    writeAttribute(crate, shader, declaration, { default: value.floats(values) })
  spec(output, SPEC.attribute, { typeName: token })
}

function writePrototype(
  crate: Crate,
  path: number,
  { mesh, material }: UsdPrim['prototypes'][number],
): number {
  const names = MESH_ATTRIBUTES.map(({ declaration }) => nameOf(declaration))
  const properties = [...MESH_UNIFORMS.map(([name]) => name), ...names, ...(material ? [BINDING] : [])]
  crate.spec(path, SPEC.prim, {
    ...primFields(crate, 'Mesh', { properties, primChildren: material ? [MATERIAL] : [] }),
    ...(material ? { apiSchemas: crate.value.prepended([BINDING_SCHEMA]) } : {}),
  })
  writeUniforms(crate, path, MESH_UNIFORMS)
  for (const { declaration, values } of MESH_ATTRIBUTES)
    writeAttribute(crate, path, declaration, {
      default: crate.value.array(typeOf(declaration), values(mesh)),
    })
  if (material) writeMaterial(crate, path, material)
  return path
}

function writeUniforms({ spec, path, value }: Crate, prim: number, uniforms: [string, string][]): void {
  for (const [name, token] of uniforms)
    spec(path(prim, name, true), SPEC.attribute, {
      typeName: value.token('token'),
      variability: value.uniform(),
      default: value.token(token),
    })
}

function writeAttribute(
  { spec, path, value }: Crate,
  prim: number,
  declaration: string,
  fields: Fields,
): void {
  const typeName = value.token(declaration.split(' ')[0]!)
  spec(path(prim, nameOf(declaration), true), SPEC.attribute, { typeName, ...fields })
}

const nameOf = (declaration: string): string => declaration.split(' ')[1]!
