/** Meshes as prims of USD. */
import type { Mesh, MeshFrame, Shot } from '@tangle/core'
import { cutMarks } from './cutMarks.ts'
import { plainName } from './kind.ts'
import { coordinatesOf } from './textureCoordinates.ts'
import { materialOf } from './usdMaterials.ts'
import { ID, plain, samplesOf, type UsdAttribute, type UsdPrim } from './usdPrim.ts'
import { boxOf } from './usdText.ts'
import { vertexDataOf } from './vertexData.ts'

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

/** Which faces are those of a cut: 1; the others are the mesh's own. */
const CUT: UsdAttribute<MeshFrame> = {
  declaration: 'int[] primvars:cut',
  width: 1,
  interpolation: 'uniform',
  values: (mesh) => Int32Array.from(cutMarks(mesh)),
}
const MESH_VELOCITIES: UsdAttribute<MeshFrame> = {
  declaration: 'vector3f[] velocities',
  width: 3,
  values: ({ velocities }) => velocities!,
}
const coordinatesAs = (values: UsdAttribute<MeshFrame>['values']): UsdAttribute<MeshFrame> => ({
  declaration: 'texCoord2f[] primvars:st',
  width: 2,
  interpolation: 'faceVarying',
  constant: true,
  values,
})
/** Colours and attributes of a skin. */
function vertexAttributes(shot: Shot, first: MeshFrame): UsdAttribute<MeshFrame>[] {
  const { colours, attributes } = vertexDataOf(shot, first)
  const named = attributes.map(({ name, width, files }): UsdAttribute<MeshFrame> => ({
    declaration: files.usd,
    width: width as 1 | 3,
    interpolation: 'vertex',
    values: ({ columns }) => columns![name]!,
  }))
  const colour: UsdAttribute<MeshFrame> = {
    declaration: 'color3f[] primvars:displayColor',
    width: 3,
    interpolation: 'vertex',
    values: (mesh) => vertexDataOf(shot, mesh).colours!,
  }
  return colours ? [...named, colour] : named
}

export const meshPrim = (shot: Shot, first: MeshFrame, sources: Map<string, Mesh>): UsdPrim => {
  const { id } = first
  const isCut = shot.meshes.some((one) => one.id === id && one.cut !== null)
  const coordinates = coordinatesOf(shot, sources, first)
  const material = materialOf(shot, id)
  return plain<MeshFrame>({
    ...(material ? { material } : {}),
    type: 'Mesh',
    name: `${plainName(id)}_mesh`,
    uniforms: [[ID, id], ...MESH_UNIFORMS],
    attributes: [
      ...MESH_ATTRIBUTES,
      ...(first.velocities ? [MESH_VELOCITIES] : []),
      ...(isCut ? [CUT] : []),
      ...(coordinates ? [coordinatesAs(coordinates)] : []),
      ...vertexAttributes(shot, first),
    ],
    prototypes: [],
    samples: (frames) => samplesOf(frames, ({ meshes }) => meshes.find((one) => one.id === id)!),
  })
}
