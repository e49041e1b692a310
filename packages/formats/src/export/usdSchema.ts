/**
 * A take as prims of Universal Scene Description, whatever they are written as: one Points prim per population, with time samples per frame (and between, if asked for)
 * for ids, points, displayColor and, where they are kept, velocities (per second), widths (diameters), displayOpacity and orientations. The number of points changes from frame to frame; ids tell who is who.
 * Particles drawn as instances are a PointInstancer prim instead, with their meshes below it. What is left of a mesh that is eaten is a Mesh prim with
 * other triangles in every frame; trails and threads are BasisCurves prims, ID_trails and ID_threads. In the unit and with the axis that `metersPerUnit` and `upAxis` say.
 * Source: the UsdGeomPoints, UsdGeomPointInstancer, UsdGeomMesh and UsdGeomBasisCurves schemas of OpenUSD.
 */
import {
  ATTRIBUTES,
  ownAttribute,
  ownName,
  TOLD,
  type Mesh,
  type OwnAttribute,
  type Population,
  type PopulationFrame,
  type Shot,
} from '@tangle/core'
import { coloursOf, emissionOf } from './colours.ts'
import { areAsTheirMeshes, instancesOf, type WrittenInstances } from './instances.ts'
import { plainName, type Frames } from './kind.ts'
import { linesOf, type DrawnLines, type Lines } from './lines.ts'
import { materialOf } from './usdMaterials.ts'
import { meshPrim } from './usdMeshes.ts'
import { ID, plain, samplesOf, type UsdAttribute, type UsdPrim } from './usdPrim.ts'
import { boxOf, extent } from './usdText.ts'

/** The prims of a take. `sources` are the meshes of the shot by `sourceKey`. */
export async function primsOf(shot: Shot, frames: Frames, sources: Map<string, Mesh>): Promise<UsdPrim[]> {
  const { populations, meshes } = await frames.read(frames.first)
  const lines = linesOf(shot)
  const particles = shot.populations.flatMap(({ id }) => {
    const first = populations.find((one) => one.id === id)!
    const points = pointsOf(shot, first, instancesOf(shot, id, sources, frames.space))
    return [points, ...lines.filter((one) => one.id === id).map(linesPrim)]
  })
  const all = [...particles, ...meshes.map((one) => meshPrim(shot, one, sources))]
  // "a-b" and "a_b", or a population "sand_mesh" beside a mesh "sand", come to the same name
  const taken = new Set<string>()
  return all.map((prim) => {
    let { name } = prim
    for (let n = 2; taken.has(name); n++) name = `${prim.name}_${n}`
    taken.add(name)
    return { ...prim, name }
  })
}

type Points = UsdAttribute<PopulationFrame>

/** `first` says what the population keeps. */
function pointsOf(shot: Shot, first: PopulationFrame, instances: WrittenInstances | null): UsdPrim {
  const population = shot.populations.find((one) => one.id === first.id)!
  const colours = coloursIn(population, first)
  const attributes = instances ? instanceAttributes(first, instances, colours) : pointAttributes(first, colours) // prettier-ignore
  return plain<PopulationFrame>({
    type: instances ? 'PointInstancer' : 'Points',
    name: plainName(first.id),
    uniforms: [[ID, first.id]],
    attributes: toldApart([
      ...attributes,
      ...PRIMVARS.flatMap((one) => primvar(first, one)),
      ...population.attributes.flatMap((one) => where(first.columns[ownName(one.id)], ownPrimvar(one))),
    ]),
    prototypes: (instances?.meshes ?? []).map(({ name, of, mesh }, n) => ({
      name: `${plainName(name)}_${n}`,
      mesh: { id: name, ...mesh },
      material: areAsTheirMeshes(shot, first) ? materialOf(shot, of) : null,
    })),
    samples: (frames) =>
      samplesOf(frames, ({ populations }) => populations.find((one) => one.id === first.id)!),
  })
}

const IDS: Points = { declaration: 'int64[] ids', width: 1, values: ({ columns }) => columns.id! }
const VELOCITIES: Points = {
  declaration: 'vector3f[] velocities',
  width: 3,
  values: ({ columns }) => columns.velocity!,
}
const placesAs = (declaration: string): Points => ({
  declaration,
  width: 3,
  values: ({ columns }) => columns.position!,
})
const widthsAs = (declaration: string): Points => ({
  declaration,
  width: 1,
  interpolation: 'vertex',
  values: ({ columns }) => (columns.radius as Float32Array).map((r) => 2 * r),
})
const turnsAs = (declaration: string): Points => ({
  declaration,
  width: 4,
  values: ({ columns }) => columns.orientation!,
})
/** Of instances, in degrees per second as the schema has them. */
const SPINS: Points = {
  declaration: ATTRIBUTES.angularVelocity.files!.usd, // it is written
  width: 3,
  values: ({ columns }) => (columns.angularVelocity as Float32Array).map((w) => (w * 180) / Math.PI),
}
const where = <T>(kept: unknown, one: T): T[] => (kept ? [one] : [])

const pointAttributes = ({ columns: kept }: PopulationFrame, colours: Points[]): Points[] => [
  { declaration: 'float3[] extent', width: 3, values: (population) => extent(population) },
  IDS,
  placesAs('point3f[] points'),
  ...where(kept.velocity, VELOCITIES),
  ...where(kept.radius, widthsAs('float[] widths')),
  ...colours,
  ...where(kept.orientation, {
    ...turnsAs('quatf[] primvars:orientation'),
    interpolation: 'vertex' as const,
  }),
]

const instanceAttributes = (
  { columns: kept }: PopulationFrame,
  { reach, scales, which }: WrittenInstances,
  colours: Points[],
): Points[] => [
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
  placesAs('point3f[] positions'),
  ...where(kept.velocity, VELOCITIES),
  { declaration: 'int[] protoIndices', width: 1, values: which },
  ...where(kept.orientation, turnsAs('quath[] orientations')),
  ...where(kept.angularVelocity, SPINS),
  { declaration: 'float3[] scales', width: 3, values: (population) => thrice(scales(population)) },
  ...where(kept.radius, widthsAs('float[] primvars:widths')),
  ...colours,
]
const thrice = (values: Float32Array): Float32Array =>
  Float32Array.from({ length: values.length * 3 }, (_, i) => values[Math.floor(i / 3)]!)

const coloursIn = ({ look, attributes }: Population, { columns: kept }: PopulationFrame): Points[] => [
  {
    declaration: 'color3f[] primvars:displayColor',
    width: 3,
    interpolation: 'vertex',
    values: (population) => coloursOf(look, population, attributes),
  },
  // under the name that UsdPreviewSurface gives it
  ...where(look.glow && look.glow.strength !== 0, {
    declaration: 'color3f[] primvars:emissiveColor',
    width: 3 as const,
    interpolation: 'vertex' as const,
    values: (population: PopulationFrame) => emissionOf(look, population, attributes)!,
  }),
  ...where(kept.opacity, {
    declaration: 'float[] primvars:displayOpacity',
    width: 1 as const,
    interpolation: 'vertex' as const,
    values: ({ columns }: PopulationFrame) => columns.opacity!,
  }),
]

/** What a schema has no place for, under the name of the attribute table. */
const PRIMVARS = [
  'phase',
  'parent',
  'parentPopulation',
  'generation',
  'age',
  'travelled',
  'piece',
  ...TOLD,
] as const
const primvar = ({ columns: kept }: PopulationFrame, name: (typeof PRIMVARS)[number]): Points[] =>
  where(kept[name], {
    declaration: ATTRIBUTES[name].files!.usd, // these are written
    width: 1 as const,
    interpolation: 'vertex' as const,
    // whole numbers are signed there: who has no parent has −1
    values: ({ columns }: PopulationFrame) =>
      ATTRIBUTES[name].type === 'u32' ? Int32Array.from(columns[name]!) : columns[name]!,
  })

/** An attribute of the artist's own, whose id may have what a name in USD may not. */
function ownPrimvar(one: OwnAttribute): Points {
  const { files, width } = ownAttribute(one)
  const [type] = files!.usd.split(' ') // every attribute of the artist's own has a name in files
  return {
    declaration: `${type} primvars:${plainName(one.id)}`,
    width: width as 1 | 3,
    interpolation: 'vertex',
    values: ({ columns }) => {
      const values = columns[ownName(one.id)]!
      return one.type === 'whole' ? Int32Array.from(values, Math.round) : values
    },
  }
}

/** The artist's "a-b" and "a_b", or a "displayColor", come to names that are taken. */
function toldApart(attributes: Points[]): Points[] {
  const taken = new Set<string>()
  return attributes.map((one) => {
    let { declaration } = one
    for (let n = 2; taken.has(declaration.split(' ')[1]!); n++) declaration = `${one.declaration}_${n}`
    taken.add(declaration.split(' ')[1]!)
    return { ...one, declaration }
  })
}

const LINE_ATTRIBUTES: UsdAttribute<Lines>[] = [
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
const linesPrim = ({ id, sort, through }: DrawnLines): UsdPrim =>
  plain<Lines>({
    type: 'BasisCurves',
    name: `${plainName(id)}_${sort}`,
    uniforms: [
      [ID, id],
      ['type', 'linear'],
    ],
    attributes: LINE_ATTRIBUTES,
    prototypes: [],
    wholeFrames: true,
    async *samples(frames) {
      for await (const { frame, lines } of through(frames)) yield { time: frame, sample: lines }
    },
  })
