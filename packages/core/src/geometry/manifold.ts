/** The library of solids: loaded only for shots that cut meshes by others, and the same to the bit everywhere. */
import type { Manifold, ManifoldToplevel } from 'manifold-3d'
import type { Mesh } from './mesh.ts'

let loaded: ManifoldToplevel | null = null

/** Loads it; a shot with solid cuts can be computed from then on. @param at where its program lies, where it is not found by itself */
export async function loadManifold(at?: string): Promise<void> {
  if (loaded) return
  const load = (await import('manifold-3d')).default
  const manifold = await load(at === undefined ? undefined : { locateFile: () => at })
  manifold.setup()
  loaded = manifold
}

/** Throws where it has not been loaded. */
export function manifoldModule(): ManifoldToplevel {
  if (!loaded) throw new Error('A shot with solid cuts is computed after `await readyFor(shot)`')
  return loaded
}

/** Of its surface to the power of 3/2, the volume that makes a solid of a mesh: less is flat but for rounding. */
export const FLAT = 1e-6

/**
 * Closed triangles as a solid, and the number by which it knows them in what is cut from it, where they keep their own numbers.
 * @throws Error where edges do not pair
 */
export function solidFrom(
  { Manifold, Mesh }: ManifoldToplevel,
  { positions, triangles }: Pick<Mesh, 'positions' | 'triangles'>,
): { solid: Manifold; id: number } {
  const id = Manifold.reserveIDs(1)
  const made = new Mesh({
    numProp: 3,
    vertProperties: positions.slice(),
    triVerts: triangles.slice(),
    runIndex: Uint32Array.of(0, triangles.length),
    runOriginalID: Uint32Array.of(id),
    faceID: new Uint32Array(triangles.length / 3).map((_, t) => t),
  })
  return { solid: Manifold.ofMesh(made), id }
}

/** A solid that is made once, and stands as its vertices do at a moment: a third of the time of making it anew. */
export interface MovableSolid {
  /** The number by which it is known in what is cut from it. */
  id: number
  /** @throws Error where its vertices are nowhere */
  at(positions: Float32Array): Manifold
  delete(): void
}

/** Null where two vertices lie at one place at rest: the library orders vertices by their places. @throws Error where edges do not pair */
export function movableSolid(
  module: ManifoldToplevel,
  rest: Pick<Mesh, 'positions' | 'triangles'>,
): MovableSolid | null {
  const { solid, id } = solidFrom(module, rest)
  const order = orderIn(solid, rest.positions)
  if (!order) {
    solid.delete()
    return null
  }
  return {
    id,
    at(positions) {
      const moved = solid.warpBatch((places) => {
        order.forEach((v, n) => {
          for (let axis = 0; axis < 3; axis++) places[n * 3 + axis] = positions[v * 3 + axis]!
        })
      })
      if (moved.status() === 'NoError') return moved
      moved.delete()
      throw new Error('a vertex is nowhere')
    },
    delete: () => solid.delete(),
  }
}

/** Of each vertex of a solid the one that it was made from. */
function orderIn(solid: Manifold, positions: Float32Array): Uint32Array | null {
  const key = (of: Float32Array | Float64Array, v: number): string => `${of[v * 3]} ${of[v * 3 + 1]} ${of[v * 3 + 2]}` // prettier-ignore
  const known = new Map(Array.from({ length: positions.length / 3 }, (_, v) => [key(positions, v), v]))
  let places = new Float64Array()
  solid.warpBatch((all) => void (places = all.slice())).delete()
  const count = places.length / 3
  if (known.size !== positions.length / 3 || count !== known.size) return null
  const order = Array.from({ length: count }, (_, n) => known.get(key(places, n)))
  return order.includes(undefined) ? null : Uint32Array.from(order as number[])
}
