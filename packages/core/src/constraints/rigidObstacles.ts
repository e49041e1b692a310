/** Meshes and planes that rigid bodies hit, as bodies of the engine. */
import { fromAxes, UNTURNED } from '../math/quaternion.ts'
import { cross, scale, unit, type Vector } from '../math/vector.ts'
import { vectorAt } from '../document/keys.ts'
import type { Body } from '../scene/body.ts'
import { turnAt } from '../scene/turning.ts'
import type { Collider } from './collider.ts'
import type { ConstraintMoment, Feed } from './constraint.ts'
import { MESH_CONTACTS } from './meshContacts.ts'
import { rapierModule } from './rapier.ts'
import type { RigidMember } from './rigidMembers.ts'
import {
  asQuaternion,
  asVector,
  bodyOf,
  groupsOf,
  obstacleBit,
  PARTICLES,
  type Pose,
  type RigidWorld,
} from './rigidWorld.ts'

/** Bits for what bodies hit. */
const MOST_OBSTACLES = 15

/** Everything that members hit in this substep, with what it is of. */
export function placeObstacles(
  world: RigidWorld,
  members: RigidMember[],
  moment: ConstraintMoment,
): [Obstacle, Collider][] {
  const { obstacles } = world.memory
  const there: [Obstacle, Collider][] = []
  for (const member of members) {
    const { population } = member
    for (const feed of population.feeds(MESH_CONTACTS)) {
      const name = `${population.id} ${feed.influence}`
      const known = obstacles.findIndex((one) => one.name === name)
      const n = known < 0 ? obstacles.length : known
      if (n < MOST_OBSTACLES) {
        const obstacle = obstacles[known] ?? create(world, member, name, feed, obstacleBit(n), moment)
        reshape(world, obstacle, feed.rule, moment)
        there.push([obstacle, feed.rule])
        const amount = moment.machine.heap.f32(feed.amount, population.columns.count).slice()
        member.hits.push({ collider: feed.rule, bit: obstacleBit(n), amount })
      }
      feed.free()
    }
  }
  return there
}

type Obstacle = RigidWorld['memory']['obstacles'][number]

function create(
  world: RigidWorld,
  { feed: { rule: own } }: RigidMember,
  name: string,
  { rule }: Feed<Collider>,
  bit: number,
  moment: ConstraintMoment,
): Obstacle {
  const { ColliderDesc, RigidBodyDesc, CoefficientCombineRule, TriMeshFlags } = rapierModule()
  const { rapier, memory } = world
  const { unit: units } = memory
  // a plane may be moved by keys that hold still just now
  const moves = 'normal' in rule.of || rule.of.moves
  const body = rapier.createRigidBody(moves ? RigidBodyDesc.kinematicPositionBased() : RigidBodyDesc.fixed())
  let shape
  if ('normal' in rule.of) shape = slab(rule.of.normal)
  else {
    const vertices = verticesOf(rule.of, moment, moment.from)
    shape = ColliderDesc.trimesh(
      vertices.map((x) => x * units),
      rule.of.mesh.triangles,
      TriMeshFlags.FIX_INTERNAL_EDGES,
    )
  }
  // the mean of what bodies have, times this
  const friction = own.friction > 0 ? rule.friction / own.friction : 0
  const collider = rapier.createCollider(
    shape
      .setFriction(friction)
      .setFrictionCombineRule(CoefficientCombineRule.Multiply)
      .setRestitution(rule.bounce)
      .setRestitutionCombineRule(CoefficientCombineRule.Max)
      .setCollisionGroups(groupsOf(bit, PARTICLES)),
    body,
  )
  const made = { name, handle: body.handle, shape: collider.handle }
  memory.obstacles.push(made)
  const { place, turned } = poseOf(rule.of, moment, 0)
  body.setTranslation(asVector(place, units), false)
  body.setRotation(asQuaternion(turned), false)
  return made
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

/** Of a mesh that only moves and turns: in its own frame; of another: in the world. */
const verticesOf = (body: Body, { shot }: ConstraintMoment, frame: number): Float32Array =>
  body.rigid ? body.sizedAt(shot.frames.first).slice() : body.worldView(frame).slice()

/** Where it is after a part of the substep. */
function poseOf(of: Collider['of'], { from, to }: ConstraintMoment, part: number): Pose {
  const frame = from + (to - from) * part
  if ('normal' in of) return { place: scale(of.normal, of.from + (of.to - of.from) * part), turned: UNTURNED }
  if (!of.rigid) return { place: [0, 0, 0], turned: UNTURNED }
  return { place: vectorAt(of.shotMesh.place.position, frame), turned: turnAt(of, frame) }
}

/** Puts what moves a part of its way on. */
export function moveObstacles(
  world: RigidWorld,
  all: [Obstacle, Collider][],
  moment: ConstraintMoment,
  part: number,
): void {
  const { unit: units } = world.memory
  for (const [obstacle, { of }] of all) {
    const body = bodyOf(world, obstacle)
    if (!body.isKinematic()) continue
    const { place, turned } = poseOf(of, moment, part)
    body.setNextKinematicTranslation(asVector(place, units))
    body.setNextKinematicRotation(asQuaternion(turned))
  }
}

/** A mesh that does not keep its shape is another one in each substep. */
function reshape(world: RigidWorld, { shape }: Obstacle, { of }: Collider, moment: ConstraintMoment): void {
  if ('normal' in of || of.rigid || !of.moves) return
  const { TriMesh, TriMeshFlags } = rapierModule()
  const vertices = verticesOf(of, moment, moment.to).map((x) => x * world.memory.unit)
  world.rapier
    .getCollider(shape)
    .setShape(new TriMesh(vertices, of.mesh.triangles, TriMeshFlags.FIX_INTERNAL_EDGES))
}
