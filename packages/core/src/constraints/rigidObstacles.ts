/** Meshes and planes that rigid bodies hit, as bodies of the engine. */
import { fromAxes, turnBy, UNTURNED } from '../math/quaternion.ts'
import { add, cross, length, scale, subtract, unit, vectorOf, type Vector } from '../math/vector.ts'
import { vectorAt } from '../document/keys.ts'
import { turnedOver } from '../geometry/mesh.ts'
import { isMirrored, type Body } from '../scene/body.ts'
import { turnAt } from '../scene/turning.ts'
import type { ColliderDesc, Shape } from '@dimforge/rapier3d-deterministic-compat'
import type { Collider } from './collider.ts'
import type { ConstraintMoment } from './constraint.ts'
import { MESH_CONTACTS } from './meshContacts.ts'
import { rapierModule } from './rapier.ts'
import { motionOfPatch, patchesOf, type Patch } from './rigidPatches.ts'
import type { RigidMember } from './rigidMembers.ts'
import {
  asQuaternion,
  asVector,
  bodyOf,
  groupsOf,
  obstacleBit,
  PARTICLES,
  setPose,
  type Pose,
  type RigidWorld,
} from './rigidWorld.ts'

/** Bits for what bodies hit. */
const MOST_OBSTACLES = 15

/** What members hit in this substep: a body of the engine, what it is of, and how it moves. */
export interface Obstacle {
  handle: number
  collider: Collider
  /** Where it is after a part of the substep; null: it stands still. */
  poseAt: ((part: number) => Pose) | null
}

/** Everything that members hit in this substep. */
export function placeObstacles(
  world: RigidWorld,
  members: RigidMember[],
  moment: ConstraintMoment,
): Obstacle[] {
  const { obstacles } = world.memory
  const there: Obstacle[] = []
  for (const member of members) {
    const { population } = member
    for (const feed of population.feeds(MESH_CONTACTS)) {
      const { rule } = feed
      const name = `${population.id} ${feed.influence}`
      const known = obstacles.findIndex((one) => one.name === name)
      const n = known < 0 ? obstacles.length : known
      if (n < MOST_OBSTACLES) {
        const kept = obstacles[known] ?? create(world, name, rule, obstacleBit(n), moment)
        rub(world, kept, member, rule)
        there.push(...('normal' in rule.of || !deforms(rule.of) ? [whole(world, kept, rule, moment)] : deform(world, kept, rule, rule.of, boxAround(member, moment), moment))) // prettier-ignore
        const amount = moment.machine.heap.f32(feed.amount, population.columns.count).slice()
        member.hits.push({ collider: rule, bit: obstacleBit(n), amount })
      }
      feed.free()
    }
  }
  return there
}

type Kept = RigidWorld['memory']['obstacles'][number]

/** Whether it is a mesh that does not keep its shape: it stands as patches. */
const deforms = (of: Body): boolean => !of.rigid && of.moves

function create(world: RigidWorld, name: string, { of }: Collider, bit: number, moment: ConstraintMoment): Kept {
  const { RigidBodyDesc, CoefficientCombineRule } = rapierModule()
  const { rapier, memory } = world
  // a plane may be moved by keys that hold still just now
  const moves = 'normal' in of || of.moves
  const parts = shapesOf(of, memory.unit, moment).map((shape) => {
    const body = rapier.createRigidBody(moves ? RigidBodyDesc.kinematicPositionBased() : RigidBodyDesc.fixed())
    const collider = rapier.createCollider(
      shape
        .setFrictionCombineRule(CoefficientCombineRule.Multiply)
        .setRestitutionCombineRule(CoefficientCombineRule.Max)
        .setCollisionGroups(groupsOf(bit, PARTICLES)),
      body,
    )
    setPose(world, body, 'normal' in of || of.rigid ? poseOf(of, moment, 0) : ORIGIN, false)
    return { handle: body.handle, shape: collider.handle }
  })
  const made = { name, parts, friction: -1, bounce: -1 }
  memory.obstacles.push(made)
  return made
} // prettier-ignore
const ORIGIN: Pose = { place: [0, 0, 0], turned: UNTURNED }

function shapesOf(of: Collider['of'], units: number, moment: ConstraintMoment): ColliderDesc[] {
  const { ColliderDesc } = rapierModule()
  if ('normal' in of) return [slab(of.normal)]
  if (deforms(of)) {
    const points = of.worldView(moment.from)
    return patchesOf(of.mesh).map(
      (patch) => new ColliderDesc(patchShape(of, patch, points, [0, 0, 0], units)),
    )
  }
  const vertices = of.rigid ? of.sizedAt(moment.shot.frames.first) : of.worldView(moment.from)
  return [new ColliderDesc(triangleMesh(vertices.map((x) => x * units), of.outward))] // prettier-ignore
}

const triangleMesh = (vertices: Float32Array, triangles: Uint32Array): Shape => {
  const { TriMesh, TriMeshFlags } = rapierModule()
  return new TriMesh(vertices, triangles, TriMeshFlags.FIX_INTERNAL_EDGES)
}

/** A patch about its middle. */
const patchShape = (of: Body, { vertices, triangles }: Patch, points: Float32Array, middle: Vector, units: number): Shape =>
  triangleMesh(Float32Array.from({ length: vertices.length * 3 }, (_, k) => (points[vertices[Math.floor(k / 3)]! * 3 + (k % 3)]! - middle[k % 3]!) * units), isMirrored(of) ? turnedOver(triangles) : triangles) // prettier-ignore

/** Friction and bounce as they are now. */
function rub({ rapier }: RigidWorld, kept: Kept, { feed: { rule: own } }: RigidMember, rule: Collider): void {
  // the mean of what bodies have, times this
  const friction = own.friction > 0 ? rule.friction / own.friction : 0
  if (kept.friction === friction && kept.bounce === rule.bounce) return
  Object.assign(kept, { friction, bounce: rule.bounce })
  for (const { shape } of kept.parts) {
    rapier.getCollider(shape).setFriction(friction)
    rapier.getCollider(shape).setRestitution(rule.bounce)
  }
}

/** Half width and thickness of the slab that stands for a plane, in units. */
const WIDE = 16_384
const THICK = 512

/** A plane as a wide slab below it: hulls rest on it, while on a half-space some of them sink in. */
function slab(normal: Vector) {
  const { ColliderDesc } = rapierModule()
  const across = unit(cross(normal, Math.abs(normal[0]) < 0.6 ? [1, 0, 0] : [0, 0, 1]))
  const at = asVector(normal, -THICK)
  return ColliderDesc.cuboid(WIDE, THICK, WIDE)
    .setTranslation(at.x, at.y, at.z)
    .setRotation(asQuaternion(fromAxes(across, normal, cross(across, normal))))
}

/** Where what keeps its shape is after a part of the substep. */
function poseOf(of: Collider['of'], { from, to }: ConstraintMoment, part: number): Pose {
  const frame = from + (to - from) * part
  if ('normal' in of) return { place: scale(of.normal, of.from + (of.to - of.from) * part), turned: UNTURNED }
  return { place: vectorAt(of.shotMesh.place.position, frame), turned: turnAt(of, frame) }
}

function whole(world: RigidWorld, { parts }: Kept, collider: Collider, moment: ConstraintMoment): Obstacle {
  const { handle } = parts[0]!
  const moves = bodyOf(world, { handle }).isKinematic()
  return { handle, collider, poseAt: moves ? (part) => poseOf(collider.of, moment, part) : null }
}

/** Where bodies may be in the substep: lowest and highest corner, m. */
function boxAround({ columns, population, ids }: RigidMember, { h }: ConstraintMoment): [Vector, Vector] {
  const [low, high]: [Vector, Vector] = [[Infinity, Infinity, Infinity], [-Infinity, -Infinity, -Infinity]]
  for (let i = 0; i < ids.length; i++) {
    const room = 2 * population.bodyShape(i).reach + h * length(vectorOf(columns.velocity, i))
    const place = vectorOf(columns.startPosition, i)
    for (let k = 0; k < 3; k++) {
      low[k] = Math.min(low[k]!, place[k]! - room)
      high[k] = Math.max(high[k]!, place[k]! + room)
    }
  }
  return [low, high]
} // prettier-ignore

/** The patches of a mesh as they are at the start of the substep, each moving as fits best until its end; those far from bodies rest. */
function deform(world: RigidWorld, { parts }: Kept, collider: Collider, of: Body, [low, high]: [Vector, Vector], { from, to }: ConstraintMoment): Obstacle[] {
  const { rapier, memory: { unit: units } } = world
  const before = of.worldView(from).slice()
  const after = of.worldView(to)
  return patchesOf(of.mesh).flatMap((patch, k) => {
    const { handle, shape } = parts[k]!
    const near = [0, 1, 2].every((axis) => {
      const own = [...patch.vertices].flatMap((v) => [before[v * 3 + axis]!, after[v * 3 + axis]!])
      return Math.max(...own) >= low[axis]! && Math.min(...own) <= high[axis]!
    })
    const solid = rapier.getCollider(shape)
    if (solid.isEnabled() !== near) solid.setEnabled(near)
    if (!near) return []
    const motion = motionOfPatch(patch, before, after)
    solid.setShape(patchShape(of, patch, before, motion.from, units))
    const body = bodyOf(world, { handle })
    setPose(world, body, { place: motion.from, turned: UNTURNED }, false)
    const poseAt = (part: number): Pose => ({
      place: add(motion.from, scale(subtract(motion.to, motion.from), part)),
      turned: turnBy(scale(motion.turn, part)),
    })
    return [{ handle, collider, poseAt }]
  })
} // prettier-ignore

/** Puts what moves a part of its way on. */
export function moveObstacles(world: RigidWorld, all: Obstacle[], part: number): void {
  for (const { handle, poseAt } of all) {
    if (!poseAt) continue
    const body = bodyOf(world, { handle })
    const { place, turned } = poseAt(part)
    body.setNextKinematicTranslation(asVector(place, world.memory.unit))
    body.setNextKinematicRotation(asQuaternion(turned))
  }
}

/** Puts what moves where it is as the substep begins, without a way there. */
export function putObstacles(world: RigidWorld, all: Obstacle[]): void {
  for (const { handle, poseAt } of all) {
    if (poseAt) setPose(world, bodyOf(world, { handle }), poseAt(0), false)
  }
}
