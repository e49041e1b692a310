import { areaVector } from '../geometry/mesh.ts'
import { STREAM } from '../math/random.ts'
import { birth, COMMON, type BirthMesh } from './kind.ts'

/** Born anywhere on the surface, as many per square metre (in world units) everywhere. */
export const surface = birth({
  kind: 'surface',
  label: 'On the surface',
  glyph: '◠',
  help: 'Anywhere on the surface, even by area in world units',
  source: 'Turk, "Generating random points in triangles", Graphics Gems (1990)',
  parameters: { ...COMMON },
  prepare(_, source) {
    const { machine, mesh, seed } = source
    const areas = cumulatedAreas(source)
    const { heap } = machine
    return {
      offered: areas.at(-1)! > 0 ? null : 0,
      points(ids) {
        const count = ids.length
        const blocks = [areas.byteLength, count * 4, count * 4, count * 4, count * 4]
        const [table, id, triangle, u, v] = blocks.map((bytes) => heap.allocate(bytes)) as [
          number,
          number,
          number,
          number,
          number,
        ]
        heap.f64(table, areas.length).set(areas)
        heap.u32(id, count).set(ids)
        machine.run('scatterSurface', count, id, seed, STREAM.surface, table, areas.length, triangle, u, v)
        const out = placeOnTriangles(
          mesh.positions,
          mesh.triangles,
          heap.u32(triangle, count),
          heap.f32(u, count),
          heap.f32(v, count),
        )
        for (const pointer of [table, id, triangle, u, v]) heap.free(pointer)
        return out
      },
    }
  },
})

/** World area of all triangles up to and including each, m². */
export function cumulatedAreas({ mesh, scale }: Pick<BirthMesh, 'mesh' | 'scale'>): Float64Array {
  const areas = new Float64Array(mesh.triangles.length / 3)
  // an area vector goes over into world space by the cofactors of the scale
  const [x, y, z] = [scale[1] * scale[2], scale[0] * scale[2], scale[0] * scale[1]]
  let sum = 0
  for (let t = 0; t < areas.length; t++) {
    const n = areaVector(mesh, t)
    sum += Math.sqrt((n[0] * x) ** 2 + (n[1] * y) ** 2 + (n[2] * z) ** 2) / 2
    areas[t] = sum
  }
  return areas
}

function placeOnTriangles(
  positions: Float32Array,
  triangles: Uint32Array,
  triangle: Uint32Array,
  u: Float32Array,
  v: Float32Array,
) {
  const count = triangle.length
  const positionsOut = new Float32Array(count * 3)
  const normals = new Float32Array(count * 3)
  const e = new Float64Array(6)
  for (let i = 0; i < count; i++) {
    const t = triangle[i]! * 3
    const a = triangles[t]! * 3
    const b = triangles[t + 1]! * 3
    const c = triangles[t + 2]! * 3
    for (let axis = 0; axis < 3; axis++) {
      const origin = positions[a + axis]!
      e[axis] = positions[b + axis]! - origin
      e[axis + 3] = positions[c + axis]! - origin
      positionsOut[i * 3 + axis] = origin + e[axis]! * u[i]! + e[axis + 3]! * v[i]!
    }
    normals[i * 3] = e[1]! * e[5]! - e[2]! * e[4]!
    normals[i * 3 + 1] = e[2]! * e[3]! - e[0]! * e[5]!
    normals[i * 3 + 2] = e[0]! * e[4]! - e[1]! * e[3]!
  }
  return { positions: positionsOut, normals: () => normals }
}
