/** The impulses of contacts on the parts of a body, as the engine has just solved them. */
import { conjugate, rotate } from '../math/quaternion.ts'
import { add, cross, scale, vectorOf, writeVector, type Vector } from '../math/vector.ts'
import { rapierModule } from './rapier.ts'
import { bodyOf, fromQuaternion, fromVector, type BodyMemory, type RigidWorld } from './rigidWorld.ts'

/** Per part, in the body's frame: impulse, N·s, and its moment about the part's centre, N·m·s; 6 numbers. */
export type Impulses = Float64Array

/** A place where a part touches something, from the part's centre in the body's frame, and how far off it is still, m. */
export interface Touch {
  part: number
  arm: Vector
  away: number
}

/**
 * Adds those of the engine's last step; without friction, which it does not tell. Of triangle meshes it tells no impulses at all, only where they
 * touch: those places are given.
 */
export function addImpulses(world: RigidWorld, memory: BodyMemory, impulses: Impulses): Touch[] {
  const { ShapeType } = rapierModule()
  const untold: Touch[] = []
  const { rapier, memory: { unit, pace, heft } } = world // prettier-ignore
  const back = conjugate(fromQuaternion(bodyOf(world, memory).rotation()))
  const colliders = memory.parts.flatMap((part, k) => part.colliders.map((handle) => [handle, k] as const))
  for (const [handle, k] of colliders) {
    const own = rapier.getCollider(handle)
    rapier.contactPairsWith(own, (other) => {
      const isMesh = other.shapeType() === ShapeType.TriMesh
      rapier.contactPair(own, other, (manifold, flipped) => {
        // it points from the first of the pair to the second
        const normal = rotate(back, scale(fromVector(manifold.normal()), flipped ? 1 : -1))
        for (let n = 0; n < manifold.numContacts(); n++) {
          const size = manifold.contactImpulse(n)
          const at = flipped ? manifold.localContactPoint2(n) : manifold.localContactPoint1(n)
          if (!(size > 0)) {
            if (isMesh && at) untold.push({ part: k, arm: fromVector(at, unit), away: manifold.contactDist(n) / unit }) // prettier-ignore
            continue
          }
          const impulse = scale(normal, (size * pace) / (heft * unit))
          const moment = at ? cross(fromVector(at, unit), impulse) : ([0, 0, 0] as const)
          writeVector(impulses, k * 2, add(vectorOf(impulses, k * 2), impulse))
          writeVector(impulses, k * 2 + 1, add(vectorOf(impulses, k * 2 + 1), [...moment]))
        }
      })
    })
  }
  return untold
}

/** Bodies that press on a body now, by their handles. */
export function pressing(world: RigidWorld, memory: BodyMemory): Set<number> {
  const { rapier } = world
  const found = new Set<number>()
  for (const handle of memory.parts.flatMap(({ colliders }) => colliders)) {
    const own = rapier.getCollider(handle)
    rapier.contactPairsWith(own, (other) => {
      const parent = other.parent()
      if (!parent || found.has(parent.handle)) return
      rapier.contactPair(own, other, (manifold) => {
        for (let n = 0; n < manifold.numContacts(); n++)
          if (manifold.contactImpulse(n) > 0) found.add(parent.handle)
      })
    })
  }
  return found
}
