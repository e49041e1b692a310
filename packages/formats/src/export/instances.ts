import {
  chooseInstance,
  instanceMesh,
  instanceScale,
  sourceKey,
  type Mesh,
  type PopulationFrame,
  type Shot,
} from '@tangle/core'
import { isOurs, metresIn, vectorsIn, type Space } from './space.ts'

/** How files hold particles that are drawn as meshes. */
export interface WrittenInstances {
  /** About the particle at the origin, turned nowhere, at scale 1. */
  meshes: { name: string; mesh: Mesh }[]
  /** Farthest that one of their vertices is from the particle, at scale 1. */
  reach: number
  /** Of each particle: the number of its mesh, and its scale. */
  which(population: PopulationFrame): Uint32Array
  scales(population: PopulationFrame): Float32Array
}

/** The instances of a population; null where it is drawn otherwise. `meshes` are by `sourceKey`. */
export function instancesOf(
  shot: Shot,
  id: string,
  meshes: Map<string, Mesh>,
  space: Space,
): WrittenInstances | null {
  const { draw, instances } = shot.populations.find((one) => one.id === id)!.look
  if (draw !== 'instances' || !instances) return null
  const choose = chooseInstance(shot, id, instances)
  const made = instances.set.map(({ mesh: name }) => {
    const shotMesh = shot.meshes.find((one) => one.id === name)!
    const mesh = meshes.get(sourceKey(shotMesh.source))!
    const made = instanceMesh(mesh, shotMesh, instances, shot.frames.first)
    return { name, mesh: isOurs(space) ? made : { ...made, positions: vectorsIn(space, made.positions) } }
  })
  return {
    meshes: made,
    reach: Math.max(...made.map(({ mesh }) => farthest(mesh.positions))),
    which: ({ columns }) => Uint32Array.from(columns.id!, choose),
    scales: ({ count, columns }) =>
      Float32Array.from({ length: count }, (_, i) =>
        instanceScale(instances, metresIn(space, columns.radius![i]!)),
      ),
  }
}

/** Those of every population, by its id. */
export const allInstances = (
  shot: Shot,
  meshes: Map<string, Mesh>,
  space: Space,
): Map<string, WrittenInstances | null> =>
  new Map(shot.populations.map(({ id }) => [id, instancesOf(shot, id, meshes, space)]))

function farthest(positions: Float32Array): number {
  let most = 0
  for (let i = 0; i < positions.length; i += 3)
    most = Math.max(most, Math.hypot(positions[i]!, positions[i + 1]!, positions[i + 2]!))
  return most
}
