/** Friction at rest and sliding: the engine knows one coefficient, so who slides is given the other until it stands again. */
import { rotate } from '../math/quaternion.ts'
import { add, cross, dot, length, scale, subtract, vectorOf, type Vector } from '../math/vector.ts'
import type { Collider } from './collider.ts'
import type { Mover } from './rigidGroups.ts'
import { bodyOf, centreAt, fromQuaternion, fromVector, placeOf, spinOf, velocityOf, type RigidWorld } from './rigidWorld.ts' // prettier-ignore

/** Who slips faster than √(g·reach) times this slides, m/s; at half of it, it stands again. */
const SLIPS = 0.02
const GRAVITY = 9.80665
/** Points so near touch, as a share of a body's reach; the engine foresees others. */
const TOUCHES = 0.02

/** What sliding friction is to friction at rest. */
export const slidingShare = ({ friction, sliding }: { friction: number; sliding: number }): number =>
  friction > 0 ? Math.min(1, sliding / friction) : 1

/** Looks who slides now. @param on what they hit, by the handles of its bodies */
export function chooseFriction(world: RigidWorld, movers: Mover[], on: Map<number, Collider>): void {
  for (const mover of movers) {
    const { memory, member } = mover
    const share = shareOf(world, mover, on)
    if (share === memory.slides) continue
    memory.slides = share
    for (const handle of memory.parts.flatMap(({ colliders }) => colliders))
      world.rapier.getCollider(handle).setFriction(member.feed.rule.friction * share)
  }
}

/** By what the friction of a body is times as it moves now: 1 where it stands, rolls or flies. */
function shareOf(world: RigidWorld, { memory, member, rows }: Mover, on: Map<number, Collider>): number {
  const body = bodyOf(world, memory)
  const touches = rows.some((row) => length(vectorOf(member.columns.contactNormal, row)) > 0)
  if (!touches || !body.isDynamic() || body.isSleeping()) return 1
  const { rapier, memory: { unit, pace } } = world // prettier-ignore
  const [velocity, spin] = [velocityOf(world, body), spinOf(world, body)]
  const turned = fromQuaternion(body.rotation())
  const centre = centreAt(memory, { place: placeOf(world, body), turned })
  const least = SLIPS * Math.sqrt(GRAVITY * memory.reach) * (memory.slides < 1 ? 0.5 : 1)
  if (length(velocity) + length(spin) * memory.reach < least) return 1
  let [fastest, share] = [least, 1]
  for (const handle of memory.parts.flatMap(({ colliders }) => colliders)) {
    const own = rapier.getCollider(handle)
    rapier.contactPairsWith(own, (other) => {
      const parent = other.parent()!
      const rule = on.get(parent.handle) ?? member.feed.rule
      const theirs = slidingShare(rule)
      if (theirs === 1) return
      rapier.contactPair(own, other, (manifold, flipped) => {
        const normal = fromVector(manifold.normal())
        for (let n = 0; n < manifold.numContacts(); n++) {
          if (manifold.contactDist(n) > TOUCHES * memory.reach * unit) continue
          const local = flipped ? manifold.localContactPoint2(n) : manifold.localContactPoint1(n)
          if (!local) continue
          const at = add(fromVector(own.translation(), unit), rotate(turned, fromVector(local, unit)))
          const moving = add(velocity, cross(spin, subtract(at, centre)))
          const met = fromVector(parent.velocityAtPoint({ x: at[0] * unit, y: at[1] * unit, z: at[2] * unit }), unit / pace) // prettier-ignore
          const slip = along(subtract(moving, met), normal)
          if (slip > fastest) [fastest, share] = [slip, theirs]
        }
      })
    })
  }
  return share
}

/** Speed along a surface. */
const along = (velocity: Vector, normal: Vector): number =>
  length(subtract(velocity, scale(normal, dot(velocity, normal))))
