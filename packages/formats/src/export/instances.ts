import {
  chooseInstance,
  instanceMesh,
  instanceScale,
  sourceKey,
  type Mesh,
  type PopulationFrame,
  type Shot,
} from '@tangle/core'

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
export function instancesOf(shot: Shot, id: string, meshes: Map<string, Mesh>): WrittenInstances | null {
  const { draw, instances } = shot.populations.find((one) => one.id === id)!.look
  if (draw !== 'instances' || !instances) return null
  const choose = chooseInstance(shot, id, instances)
  const made = instances.set.map(({ mesh: name }) => {
    const shotMesh = shot.meshes.find((one) => one.id === name)!
    const mesh = meshes.get(sourceKey(shotMesh.source))!
    return { name, mesh: instanceMesh(mesh, shotMesh, instances, shot.frames.first) }
  })
  return {
    meshes: made,
    reach: Math.max(...made.map(({ mesh }) => farthest(mesh.positions))),
    which: ({ columns }) => Uint32Array.from(columns.id!, choose),
    scales: ({ count, columns }) =>
      Float32Array.from({ length: count }, (_, i) => instanceScale(instances, columns.radius![i]!)),
  }
}

/** Those of every population, by its id. */
export const allInstances = (shot: Shot, meshes: Map<string, Mesh>): Map<string, WrittenInstances | null> =>
  new Map(shot.populations.map(({ id }) => [id, instancesOf(shot, id, meshes)]))

function farthest(positions: Float32Array): number {
  let most = 0
  for (let i = 0; i < positions.length; i += 3)
    most = Math.max(most, Math.hypot(positions[i]!, positions[i + 1]!, positions[i + 2]!))
  return most
}
