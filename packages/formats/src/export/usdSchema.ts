/**
 * A take as prims of Universal Scene Description, whatever they are written as: one Points prim per population, with a time sample per frame
 * for ids, points, displayColor and, where they are kept, velocities (per second), widths (diameters),
 * displayOpacity and orientations. The number of points changes from frame to frame; ids tell who is who.
 * Particles drawn as instances are a PointInstancer prim instead, with their meshes below it.
 * What is left of a mesh that is eaten is a Mesh prim with other triangles in every frame; trails are a
 * BasisCurves prim, ID_trails. Metres, Y up.
 * Source: the UsdGeomPoints, UsdGeomPointInstancer, UsdGeomMesh and UsdGeomBasisCurves schemas of OpenUSD.
 */
import {
  ownAttribute,
  ownName,
  type Mesh,
  type MeshFrame,
  type PopulationFrame,
  type Shot,
} from '@tangle/core'
import type { CachedFrame } from '../frame.ts'
import { coloursOf } from './colours.ts'
import { instancesOf, type WrittenInstances } from './instances.ts'
import { plainName, type Frames } from './kind.ts'
import { trailLines, type TrailLines } from './trails.ts'
import { boxOf, extent } from './usdaText.ts'

/** What an attribute is at a frame, S being what a frame gives its prim. */
export interface UsdAttribute<S> {
  /** As in `point3f[] points`. */
  declaration: string
  width: 1 | 3 | 4
  interpolation?: 'vertex' | 'uniform'
  values(sample: S): ArrayLike<number>
}
export interface UsdPrim<S = unknown> {
  type: 'Points' | 'PointInstancer' | 'Mesh' | 'BasisCurves'
  name: string
  /** Tokens that do not change. */
  uniforms: [name: string, token: string][]
  attributes: UsdAttribute<S>[]
  /** Meshes below it that are drawn for its points alone. */
  prototypes: { name: string; mesh: MeshFrame }[]
  /** Goes through the frames. */
  samples(frames: Frames): AsyncIterable<{ frame: number; sample: S }>
}

/** The prims of a take. `sources` are the meshes of the shot by `sourceKey`. */
export async function primsOf(shot: Shot, frames: Frames, sources: Map<string, Mesh>): Promise<UsdPrim[]> {
  const { populations, meshes } = await frames.read(frames.first)
  const particles = shot.populations.flatMap(({ id, look }) => {
    const first = populations.find((one) => one.id === id)!
    const points = pointsOf(shot, first, instancesOf(shot, id, sources))
    return look.trail ? [points, trailsPrim(shot, id)] : [points]
  })
  return [...particles, ...meshes.map(({ id }) => meshPrim(id))]
}

const plain = <S>(prim: UsdPrim<S>): UsdPrim => prim as UsdPrim

async function* samplesOf<S>(frames: Frames, of: (frame: CachedFrame) => S) {
  for (let frame = frames.first; frame <= frames.last; frame++)
    yield { frame, sample: of(await frames.read(frame)) }
}

type Points = UsdAttribute<PopulationFrame>

/** `first` says what the population keeps. */
function pointsOf(shot: Shot, first: PopulationFrame, instances: WrittenInstances | null): UsdPrim {
  const { look, attributes } = shot.populations.find((one) => one.id === first.id)!
  const { columns: kept } = first
  const column = (declaration: string, name: 'velocity' | 'opacity', more?: 'vertex'): Points[] =>
    kept[name]
      ? [{ declaration, width: name === 'velocity' ? 3 : 1, ...(more ? { interpolation: more } : {}), values: ({ columns }) => columns[name]! }] // prettier-ignore
      : []
  const ids: Points = { declaration: 'int64[] ids', width: 1, values: ({ columns }) => columns.id! }
  const colours: Points[] = [
    {
      declaration: 'color3f[] primvars:displayColor',
      width: 3,
      interpolation: 'vertex',
      values: (population) => coloursOf(look, population, attributes),
    },
    ...column('float[] primvars:displayOpacity', 'opacity', 'vertex'),
  ]
  const own: Points[] = attributes.map((one) => {
    const { files, width } = ownAttribute(one)
    return {
      declaration: files!.usd, // every attribute of the artist's own has a name in files
      width: width as 1 | 3,
      interpolation: 'vertex',
      values: ({ columns }) => {
        const values = columns[ownName(one.id)]!
        return one.type === 'whole' ? Int32Array.from(values, Math.round) : values
      },
    }
  })
  const widths = (declaration: string): Points[] =>
    kept.radius ? [{ declaration, width: 1, interpolation: 'vertex', values: ({ columns }) => (columns.radius as Float32Array).map((r) => 2 * r) }] : [] // prettier-ignore
  const orientations = (declaration: string, more?: 'vertex'): Points[] =>
    kept.orientation ? [{ declaration, width: 4, ...(more ? { interpolation: more } : {}), values: ({ columns }) => columns.orientation! }] : [] // prettier-ignore
  return plain<PopulationFrame>({
    type: instances ? 'PointInstancer' : 'Points',
    name: plainName(first.id),
    uniforms: [],
    attributes: [
      ...(instances
        ? [
            {
              declaration: 'float3[] extent',
              width: 3 as const,
              values: (population: PopulationFrame) =>
                extent(
                  population,
                  instances.scales(population).map((scale) => scale * instances.reach),
                ),
            },
            ids,
            {
              declaration: 'point3f[] positions',
              width: 3 as const,
              values: ({ columns }: PopulationFrame) => columns.position!,
            },
            ...column('vector3f[] velocities', 'velocity'),
            { declaration: 'int[] protoIndices', width: 1 as const, values: instances.which },
            ...orientations('quath[] orientations'),
            {
              declaration: 'float3[] scales',
              width: 3 as const,
              values: (population: PopulationFrame) => thrice(instances.scales(population)),
            },
            ...widths('float[] primvars:widths'),
            ...colours,
          ]
        : [
            {
              declaration: 'float3[] extent',
              width: 3 as const,
              values: (population: PopulationFrame) => extent(population),
            },
            ids,
            {
              declaration: 'point3f[] points',
              width: 3 as const,
              values: ({ columns }: PopulationFrame) => columns.position!,
            },
            ...column('vector3f[] velocities', 'velocity'),
            ...widths('float[] widths'),
            ...colours,
            ...orientations('quatf[] primvars:orientation', 'vertex'),
          ]),
      ...own,
    ],
    prototypes: (instances?.meshes ?? []).map(({ name, mesh }, n) => ({
      name: `${plainName(name)}_${n}`,
      mesh: { id: name, ...mesh },
    })),
    samples: (frames) =>
      samplesOf(frames, ({ populations }) => populations.find((one) => one.id === first.id)!),
  })
}
const thrice = (values: Float32Array): Float32Array =>
  Float32Array.from({ length: values.length * 3 }, (_, i) => values[Math.floor(i / 3)]!)

export const MESH_ATTRIBUTES: UsdAttribute<MeshFrame>[] = [
  { declaration: 'float3[] extent', width: 3, values: ({ positions }) => boxOf(positions, () => 0) },
  {
    declaration: 'int[] faceVertexCounts',
    width: 1,
    values: ({ triangles }) => new Uint32Array(triangles.length / 3).fill(3),
  },
  { declaration: 'int[] faceVertexIndices', width: 1, values: ({ triangles }) => triangles },
  { declaration: 'point3f[] points', width: 3, values: ({ positions }) => positions },
]
export const MESH_UNIFORMS: [string, string][] = [['subdivisionScheme', 'none']]

/** A mesh may have the id of a population: prims have names of their own. */
const meshPrim = (id: string): UsdPrim =>
  plain<MeshFrame>({
    type: 'Mesh',
    name: `${plainName(id)}_mesh`,
    uniforms: MESH_UNIFORMS,
    attributes: MESH_ATTRIBUTES,
    prototypes: [],
    samples: (frames) => samplesOf(frames, ({ meshes }) => meshes.find((one) => one.id === id)!),
  })

const TRAIL_ATTRIBUTES: UsdAttribute<TrailLines>[] = [
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
const trailsPrim = (shot: Shot, id: string): UsdPrim =>
  plain<TrailLines>({
    type: 'BasisCurves',
    name: `${plainName(id)}_trails`,
    uniforms: [['type', 'linear']],
    attributes: TRAIL_ATTRIBUTES,
    prototypes: [],
    async *samples(frames) {
      for await (const { frame, lines } of trailLines(shot, frames, id)) yield { frame, sample: lines }
    },
  })
