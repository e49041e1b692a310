/** Friction at rest and sliding: the engine knows one coefficient, so who slides is given the other until it stands again. */
import { rotate } from '../math/quaternion.ts'
import { add, cross, dot, length, scale, subtract, vectorOf, type Vector } from '../math/vector.ts'
import type { Collider } from './collider.ts'
import type { ConstraintMoment } from './constraint.ts'
import type { Mover } from './rigidGroups.ts'
import { asVector, bodyOf, centreAt, fromQuaternion, fromVector, placeOf, spinOf, velocityOf, type RigidWorld } from './rigidWorld.ts' // prettier-ignore

/** Who slips faster than √(g·reach) times this slides, m/s; at half of it, it stands again. */
const SLIPS = 0.02
const GRAVITY = 9.80665
/** Points so near touch, as a share of a body's reach; the engine foresees others. */
const TOUCHES = 0.02

/** What sliding friction is to friction at rest. */
export const slidingShare = ({ friction, sliding }: { friction: number; sliding: number }): number =>
  friction > 0 ? Math.min(1, sliding / friction) : 1

/** Every body is looked at so often a second, in turns. */
const LOOKS = 24

/** Looks who slides now. @param on what they hit, by the handles of its bodies */
export function chooseFriction(world: RigidWorld, movers: Mover[], on: Map<number, Collider>, { substep, h }: ConstraintMoment): void {
  const turns = Math.max(1, Math.floor(1 / (LOOKS * h)))
  for (const mover of movers) {
    const { memory, member } = mover
    if ((substep + memory.parts[0]!.id) % turns !== 0) continue
    const share = shareOf(world, mover, on)
    if (share === memory.slides) continue
    memory.slides = share
    for (const handle of memory.parts.flatMap(({ colliders }) => colliders))
      world.rapier.getCollider(handle).setFriction(member.feed.rule.friction * share)
  }
} // prettier-ignore

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
  let share = 1
  for (const handle of memory.parts.flatMap(({ colliders }) => colliders)) {
    const own = rapier.getCollider(handle)
    rapier.contactPairsWith(own, (other) => {
      if (share < 1) return
      const parent = other.parent()!
      const theirs = slidingShare(on.get(parent.handle) ?? member.feed.rule)
      if (theirs === 1) return
      rapier.contactPair(own, other, (manifold, flipped) => {
        if (share < 1 || manifold.numContacts() === 0) return
        if (manifold.contactDist(0) > TOUCHES * memory.reach * unit) return
        const local = flipped ? manifold.localContactPoint2(0) : manifold.localContactPoint1(0)
        if (!local) return
        const at = add(fromVector(own.translation(), unit), rotate(turned, fromVector(local, unit)))
        const moving = add(velocity, cross(spin, subtract(at, centre)))
        const met = parent.isFixed() ? STILL : fromVector(parent.velocityAtPoint(asVector(at, unit)), unit / pace)
        if (along(subtract(moving, met), fromVector(manifold.normal())) > least) share = theirs
      })
    })
    if (share < 1) break
  }
  return share
} // prettier-ignore
const STILL: Vector = [0, 0, 0]

/** Speed along a surface. */
const along = (velocity: Vector, normal: Vector): number =>
  length(subtract(velocity, scale(normal, dot(velocity, normal))))
