/** The skins of liquids as meshes of a frame, with what they carry of their particles. */
import { carriedBySkin } from '../schema/requiredAttributes.ts'
import type { MeshFrame } from '../scene/clippedMesh.ts'
import { skinId, skinOf } from '../skin/skin.ts'
import { floats } from '../state/columns.ts'
import type { PopulationState, World } from './world.ts'

/** Of the populations whose look has one. */
export const skinsOf = ({ populations }: World): MeshFrame[] =>
  populations.flatMap((one) => skinnedOf(one) ?? [])

function skinnedOf({ source, columns }: PopulationState): MeshFrame | null {
  const { id, look } = source
  if (!look.skin) return null
  const names = carriedBySkin(source)
  const [position, radius, velocity, ...others] = (['position', 'radius', 'velocity', ...names] as const).map(
    (name) => floats(columns, name),
  ) as [Float32Array, Float32Array, Float32Array, ...Float32Array[]]
  const { positions, triangles, carried } = skinOf(look.skin, position, radius, [velocity, ...others])
  const [velocities, ...numbers] = carried as [Float32Array, ...Float32Array[]]
  const named = Object.fromEntries(names.map((name, k) => [name, numbers[k]!]))
  return { id: skinId(id), positions, triangles, velocities, ...(names.length > 0 ? { columns: named } : {}) }
}
