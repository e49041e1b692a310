import {
  chooseInstance,
  instanceMesh,
  instanceScale,
  meshOfPiece,
  numberOfPiece,
  pieceCount,
  pieceMesh,
  sourceKey,
  standing,
  vectorAt,
  type Mesh,
  type PopulationFrame,
  type Shot,
} from '@tangle/core'
import { isOurs, metresIn, vectorsIn, type Space } from './space.ts'

/** How files hold particles that are drawn as meshes. */
export interface WrittenInstances {
  /** About the particle at the origin, turned nowhere, at scale 1; `of` is the id of its mesh in the shot. */
  meshes: { name: string; of: string; mesh: Mesh }[]
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
  if (draw === 'pieces') return piecesOf(shot, id, meshes, space)
  if (draw !== 'instances' || !instances) return null
  const choose = chooseInstance(shot, id, instances)
  const made = instances.set.map(({ mesh: name }) => {
    const shotMesh = shot.meshes.find((one) => one.id === name)!
    const mesh = meshes.get(sourceKey(shotMesh.source, shot))!
    const made = instanceMesh(mesh, shotMesh, instances, shot.frames.first)
    return {
      name,
      of: name,
      mesh: isOurs(space) ? made : { ...made, positions: vectorsIn(space, made.positions) },
    }
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

/** Pieces of broken meshes: each particle is one of them, as large as it is. */
function piecesOf(shot: Shot, id: string, meshes: Map<string, Mesh>, space: Space): WrittenInstances | null {
  const population = shot.populations.find((one) => one.id === id)!
  const named = new Set(population.births.map(({ mesh }) => mesh))
  const firsts = new Map<number, number>()
  const made: WrittenInstances['meshes'] = []
  shot.meshes.forEach((shotMesh, n) => {
    const mesh = meshes.get(sourceKey(shotMesh.source, shot))
    if (!named.has(shotMesh.id) || !mesh?.pieces) return
    const size = vectorAt(standing(shot, shotMesh).place.scale, shot.frames.first)
    firsts.set(n, made.length)
    for (let k = 0; k < pieceCount(mesh); k++) {
      const one = pieceMesh(mesh, size, k)
      made.push({
        name: `${shotMesh.id}_${k}`,
        of: shotMesh.id,
        mesh: isOurs(space) ? one : { ...one, positions: vectorsIn(space, one.positions) },
      })
    }
  })
  if (made.length === 0) return null
  return {
    meshes: made,
    reach: Math.max(...made.map(({ mesh }) => farthest(mesh.positions))),
    which: ({ columns, count }) =>
      Uint32Array.from({ length: count }, (_, i) => {
        const piece = columns.piece?.[i] ?? 0
        return piece === 0 ? 0 : (firsts.get(meshOfPiece(piece)) ?? 0) + numberOfPiece(piece)
      }),
    scales: ({ count }) => new Float32Array(count).fill(1),
  }
}

/** Whether nothing colours these particles, so that each has the look of the mesh that is drawn for it. */
export const areAsTheirMeshes = (
  shot: Shot,
  { id, columns }: Pick<PopulationFrame, 'id' | 'columns'>,
): boolean => shot.populations.find((one) => one.id === id)!.look.colour.from === 'own' && !columns.colour

/** The number of each particle's mesh, in a byte where that is enough. */
export const numbersOf = (
  { meshes, which }: WrittenInstances,
  population: PopulationFrame,
): Uint8Array | Uint32Array => (meshes.length <= 256 ? Uint8Array.from(which(population)) : which(population))

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
