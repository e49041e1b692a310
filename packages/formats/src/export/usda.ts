import {
  ownAttribute,
  ownName,
  type Look,
  type Mesh,
  type MeshFrame,
  type OwnAttribute,
  type PopulationFrame,
  type Shot,
} from '@tangle/core'
import type { CachedFrame } from '../frame.ts'
import { coloursOf } from './colours.ts'
import { instancesOf, type WrittenInstances } from './instances.ts'
import { plainName, type ExportKind, type Frames } from './kind.ts'
import { trailLines, type TrailLines } from './trails.ts'
import { readSamples } from './usdaReader.ts'
import { boxOf, extent, listOf } from './usdaText.ts'

/**
 * Universal Scene Description as text: one Points prim per population, with a time sample per frame
 * for ids, points, displayColor and, where they are kept, velocities (per second), widths (diameters),
 * displayOpacity and orientations. The number of points changes from frame to frame; ids tell who is who.
 * Particles drawn as instances are a PointInstancer prim instead, with their meshes below it.
 * What is left of a mesh that is eaten is a Mesh prim with other triangles in every frame; trails are a
 * BasisCurves prim, ID_trails. Metres, Y up.
 * Source: the UsdGeomPoints, UsdGeomPointInstancer, UsdGeomMesh and UsdGeomBasisCurves schemas of OpenUSD.
 */
export const usda: ExportKind = {
  kind: 'usda',
  label: 'USD (text)',
  help: 'One file with ids, points, velocities, widths and displayColor over time',
  sequence: false,
  async *files(shot, frames, meshes) {
    yield { name: `${plainName(shot.name)}.usda`, pieces: encodePieces(writeShot(shot, frames, meshes)) }
  },
  async *readBack(read, names) {
    for (const name of names) yield* readSamples(await read(name))
  },
}

async function* encodePieces(texts: AsyncIterable<string>): AsyncGenerator<Uint8Array> {
  const encoder = new TextEncoder()
  for await (const text of texts) yield encoder.encode(text)
}

interface Written {
  declaration: string
  width: 1 | 3 | 4
  /** Undefined where the population does not keep it. */
  values(population: PopulationFrame, look: Look, own: OwnAttribute[]): ArrayLike<number> | undefined
}

/** The artist's own attributes, as primvars. */
const ownAttributes = (own: OwnAttribute[]): Written[] =>
  own.map((one) => {
    const { files, width } = ownAttribute(one)
    return {
      declaration: files!.usd, // every attribute of the artist's own has a name in files
      width: width as 1 | 3,
      values: ({ columns }) => {
        const values = columns[ownName(one.id)]
        return one.type === 'whole' ? values && Int32Array.from(values, Math.round) : values
      },
    }
  })

const IDS: Written = { declaration: 'int64[] ids', width: 1, values: ({ columns }) => columns.id }
const VELOCITIES: Written = {
  declaration: 'vector3f[] velocities',
  width: 3,
  values: ({ columns }) => columns.velocity,
}
const widths = ({ columns }: PopulationFrame) =>
  (columns.radius as Float32Array | undefined)?.map((r) => 2 * r)
/** A quaternion is written with its real part first. */
const orientations = ({ columns: { orientation } }: PopulationFrame) =>
  orientation && Float32Array.from(orientation, (_, i) => orientation[i % 4 === 0 ? i + 3 : i - 1]!)
const COLOURS: Written[] = [
  {
    declaration: 'color3f[] primvars:displayColor',
    width: 3,
    values: (population, look, own) => coloursOf(look, population, own),
  },
  { declaration: 'float[] primvars:displayOpacity', width: 1, values: ({ columns }) => columns.opacity },
]

/** In the order in which they are written; a take is gone through once for each. */
const POINTS: Written[] = [
  { declaration: 'float3[] extent', width: 3, values: (population) => extent(population) },
  IDS,
  { declaration: 'point3f[] points', width: 3, values: ({ columns }) => columns.position },
  VELOCITIES,
  { declaration: 'float[] widths', width: 1, values: widths },
  ...COLOURS,
  { declaration: 'quatf[] primvars:orientation', width: 4, values: orientations },
]
const instanceAttributes = ({ reach, which, scales }: WrittenInstances): Written[] => [
  {
    declaration: 'float3[] extent',
    width: 3,
    values: (population) =>
      extent(
        population,
        scales(population).map((scale) => scale * reach),
      ),
  },
  IDS,
  { declaration: 'point3f[] positions', width: 3, values: ({ columns }) => columns.position },
  VELOCITIES,
  { declaration: 'int[] protoIndices', width: 1, values: which },
  { declaration: 'quath[] orientations', width: 4, values: orientations },
  {
    declaration: 'float3[] scales',
    width: 3,
    values: (population) => thrice(scales(population)),
  },
  { declaration: 'float[] primvars:widths', width: 1, values: widths },
  ...COLOURS,
]
const thrice = (values: Float32Array): Float32Array =>
  Float32Array.from({ length: values.length * 3 }, (_, i) => values[Math.floor(i / 3)]!)
const INTERPOLATED = ['float[] widths', 'primvars:']

const MESH_ATTRIBUTES: { declaration: string; width: 1 | 3; values(mesh: MeshFrame): ArrayLike<number> }[] = [
  { declaration: 'float3[] extent', width: 3, values: ({ positions }) => boxOf(positions, () => 0) },
  {
    declaration: 'int[] faceVertexCounts',
    width: 1,
    values: ({ triangles }) => new Uint32Array(triangles.length / 3).fill(3),
  },
  { declaration: 'int[] faceVertexIndices', width: 1, values: ({ triangles }) => triangles },
  { declaration: 'point3f[] points', width: 3, values: ({ positions }) => positions },
]

async function* writeShot(shot: Shot, frames: Frames, sources: Map<string, Mesh>): AsyncGenerator<string> {
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
  const { populations, meshes } = await frames.read(frames.first)
  for (const { id, look, attributes } of shot.populations) {
    const first = populations.find((p) => p.id === id)!
    const instances = instancesOf(shot, id, sources)
    const name = plainName(id)
    yield `    def ${instances ? 'PointInstancer' : 'Points'} "${name}"\n    {\n`
    const written = instances ? instanceAttributes(instances) : POINTS
    for (const { declaration, width, values } of [...written, ...ownAttributes(attributes)]) {
      if (!values(first, look, attributes)) continue
      if (INTERPOLATED.some((part) => declaration.includes(part)))
        yield `        ${declaration} (\n            interpolation = "vertex"\n        )\n`
      yield* samplesOf(declaration, width, frames, (frame) => {
        const population = frame.populations.find((p) => p.id === id)!
        return values(population, look, attributes)!
      })
    }
    if (instances) yield* writePrototypes(`/${root}/${name}`, instances)
    yield `    }\n`
    if (look.trail) yield* writeTrails(shot, frames, id)
  }
  for (const { id } of meshes) {
    yield `    def Mesh "${meshName(id)}"\n    {\n        uniform token subdivisionScheme = "none"\n`
    for (const { declaration, width, values } of MESH_ATTRIBUTES)
      yield* samplesOf(declaration, width, frames, (frame) => values(frame.meshes.find((m) => m.id === id)!))
    yield `    }\n`
  }
  yield `}\n`
}

/** The meshes of a PointInstancer, below it, where they are not drawn for themselves. */
function* writePrototypes(path: string, { meshes }: WrittenInstances): Generator<string> {
  const names = meshes.map(({ name }, n) => `${plainName(name)}_${n}`)
  yield `        rel prototypes = [${names.map((name) => `<${path}/${name}>`).join(', ')}]\n`
  for (const [n, { name: id, mesh }] of meshes.entries()) {
    yield `        def Mesh "${names[n]}"\n        {\n            uniform token subdivisionScheme = "none"\n`
    for (const { declaration, width, values } of MESH_ATTRIBUTES) {
      yield `            ${declaration} = [`
      yield* listOf(values({ id, ...mesh }), width)
      yield `]\n`
    }
    yield `        }\n`
  }
}

const TRAIL_ATTRIBUTES: {
  declaration: string
  width: 1 | 3
  interpolation?: string
  values(lines: TrailLines): ArrayLike<number>
}[] = [
  { declaration: 'float3[] extent', width: 3, values: ({ points }) => boxOf(points, () => 0) },
  { declaration: 'int[] curveVertexCounts', width: 1, values: ({ counts }) => counts },
  { declaration: 'point3f[] points', width: 3, values: ({ points }) => points },
  { declaration: 'float[] widths', width: 1, interpolation: 'vertex', values: ({ widths }) => widths },
  { declaration: 'int64[] primvars:id', width: 1, interpolation: 'uniform', values: ({ ids }) => ids },
  {
    declaration: 'color3f[] primvars:displayColor',
    width: 3,
    interpolation: 'vertex',
    values: ({ colours }) => colours,
  },
  {
    declaration: 'float[] primvars:displayOpacity',
    width: 1,
    interpolation: 'vertex',
    values: ({ opacities }) => opacities,
  },
]

async function* writeTrails(shot: Shot, frames: Frames, id: string): AsyncGenerator<string> {
  yield `    def BasisCurves "${plainName(id)}_trails"\n    {\n        uniform token type = "linear"\n`
  for (const { declaration, width, interpolation, values } of TRAIL_ATTRIBUTES) {
    if (interpolation)
      yield `        ${declaration} (\n            interpolation = "${interpolation}"\n        )\n`
    yield `        ${declaration}.timeSamples = {\n`
    for await (const { frame, lines } of trailLines(shot, frames, id)) {
      yield `            ${frame}: [`
      yield* listOf(values(lines), width)
      yield `],\n`
    }
    yield `        }\n`
  }
  yield `    }\n`
}

/** A mesh may have the id of a population: prims have names of their own. */
const meshName = (id: string): string => `${plainName(id)}_mesh`

async function* samplesOf(
  declaration: string,
  width: 1 | 3 | 4,
  frames: Frames,
  values: (frame: CachedFrame) => ArrayLike<number>,
): AsyncGenerator<string> {
  yield `        ${declaration}.timeSamples = {\n`
  for (let frame = frames.first; frame <= frames.last; frame++) {
    yield `            ${frame}: [`
    yield* listOf(values(await frames.read(frame)), width)
    yield `],\n`
  }
  yield `        }\n`
}
