/** Numbers and triangles as a document of glTF has them. */
import type { Mesh, MeshFrame, Shot } from '@tangle/core'
import type { Accessor, Document, Primitive, TypedArray } from '@gltf-transform/core'
import type { GlbMaterials } from './glbMaterials.ts'
import { paintedPartsOf, rowsFrom } from './glbPaint.ts'

export interface Attribute {
  name: string
  values: Float32Array | Uint16Array
  width: number
}
/** Some rows of an attribute. */
export function rowsOf({ values, width }: Attribute, rows: number[]): Float32Array | Uint16Array {
  const out = new (values.constructor as Float32ArrayConstructor)(rows.length * width)
  rows.forEach((from, i) => {
    for (let k = 0; k < width; k++) out[i * width + k] = values[from * width + k]!
  })
  return out
}

type Kind = 'SCALAR' | 'VEC2' | 'VEC3' | 'VEC4'
const KINDS: Record<number, Kind> = { 1: 'SCALAR', 2: 'VEC2', 3: 'VEC3', 4: 'VEC4' }

export function accessorsOf(document: Document): (values: TypedArray, width: number) => Accessor {
  const buffer = document.createBuffer()
  return (values, width) =>
    document
      .createAccessor()
      .setArray(values as never)
      .setType(KINDS[width]!)
      .setBuffer(buffer)
}

/** Makes primitives and meshes of triangles, painted as their file has them where that is their look. */
export function surfacesOf(
  document: Document,
  accessor: ReturnType<typeof accessorsOf>,
  materials: GlbMaterials,
  sources: Map<string, Mesh>,
) {
  const meshOf = (id: string, ...primitives: Primitive[]) =>
    primitives.reduce((mesh, one) => mesh.addPrimitive(one), document.createMesh(id))
  const trianglesOf = ({ positions, triangles }: Pick<MeshFrame, 'positions' | 'triangles'>): Primitive =>
    document
      .createPrimitive()
      .setAttribute('POSITION', accessor(positions.slice(), 3))
      .setIndices(accessor(triangles.slice(), 1))
  /** By the materials of its own file, one primitive each; null where it has another look. */
  function paintedOf(
    shot: Shot,
    id: string,
    mesh: Pick<MeshFrame, 'positions' | 'triangles' | 'inner'>,
    attributes: Attribute[],
  ): Primitive[] | null {
    const look = shot.meshes.find((one) => one.id === id)?.look
    const parts = paintedPartsOf(shot, id, sources, mesh)
    if (!look || !parts) return null
    return parts.map(({ material, from, uvs, triangles }) => {
      const primitive = trianglesOf({ positions: rowsFrom(mesh.positions, from, 3), triangles })
      if (uvs) primitive.setAttribute('TEXCOORD_0', accessor(uvs.slice(), 2))
      for (const { name, values, width } of attributes) primitive.setAttribute(name, accessor(rowsFrom(values, from, width), width)) // prettier-ignore
      return primitive.setMaterial(materials.ofFile(`${id} ${material.name}`.trim(), look, material))
    })
  }
  return { meshOf, paintedOf, trianglesOf }
}

/** Where nobody is, and no mesh, there are no numbers: a buffer of none is not allowed. */
export function withoutEmptyBuffer(document: Document): void {
  const root = document.getRoot()
  if (root.listAccessors().length === 0) for (const one of root.listBuffers()) one.dispose()
}
