/** What a step of the engine has made of bodies goes back to their particles; who touched nothing flies by equations of our own. */
import { compose, conjugate, rotate, type Quaternion } from '../math/quaternion.ts'
import { turnFreely } from '../math/freeTop.ts'
import { add, dot, scale, subtract, unit, vectorOf, writeVector, type Vector } from '../math/vector.ts'
import { floats, view } from '../state/columns.ts'
import { eventOf } from '../state/events.ts'
import type { ConstraintMoment } from './constraint.ts'
import { rowsOf, writeCluster, type RigidMember, type Row } from './rigidClusters.ts'
import {
  asQuaternion,
  asVector,
  bodyOf,
  fromQuaternion,
  fromVector,
  setSpin,
  setVelocity,
  spinOf,
  velocityOf,
  type ClusterMemory,
  type RigidWorld,
} from './rigidWorld.ts'

/** Shares of the velocity that rounding in the engine may come to. */
const ROUNDING = 4e-6

/** What a cluster is given in a substep. */
export interface Driven {
  /** It goes where it is put, or sleeps: nothing is to be read. */
  still: boolean
  /** Of one that is held: where it was. */
  from?: { place: Vector; turned: Quaternion }
  /** Where it was, or is put, and what acts on it: m, m/s, rad/s, m/s², N·m. */
  place: Vector
  turned: Quaternion
  velocity: Vector
  angularVelocity: Vector
  acceleration: Vector
  torque: Vector
}
export const STILL: Omit<Driven, 'place' | 'turned'> = { still: true, velocity: [0, 0, 0], angularVelocity: [0, 0, 0], acceleration: [0, 0, 0], torque: [0, 0, 0] } // prettier-ignore

/** Takes over where a cluster is now and how it moves. */
export function readBack(
  world: RigidWorld,
  cluster: ClusterMemory,
  driven: Driven,
  members: RigidMember[],
  moment: ConstraintMoment,
): void {
  const { h } = moment
  const { unit: units } = world.memory
  const body = bodyOf(world, cluster.handle)
  const rows = rowsOf(cluster, members)
  if (!body.isDynamic()) {
    for (const row of rows) setTouch(row, [0, 0, 0], moment)
    if (rows.length > 1) writeCluster(cluster, rows, driven.place, driven.turned, velocityOf(world, body), spinOf(world, body)) // prettier-ignore
    return
  }
  if (driven.still || body.isSleeping()) {
    if (!driven.still) cluster.restedUnder = driven.acceleration
    const zero: Vector = [0, 0, 0]
    return writeCluster(
      cluster,
      rows,
      fromVector(body.translation(), units),
      fromQuaternion(body.rotation()),
      zero,
      zero,
    )
  }
  const { velocity: v, acceleration: a } = driven
  const flown = add(v, scale(a, h))
  const [now, spin] = [velocityOf(world, body), spinOf(world, body)]
  const pushed = subtract(now, flown)
  const size = Math.sqrt(dot(v, v)) + Math.sqrt(dot(a, a)) * h
  const touches = dot(pushed, pushed) > (ROUNDING * size + 1e-9) ** 2
  for (const row of rows) setTouch(row, touches ? unit(pushed) : [0, 0, 0], moment)
  const damped = Math.max(0, 1 - rows[0]!.member.feed.rule.spinDamping * h)
  if (touches) {
    if (damped < 1) setSpin(world, body, scale(spin, damped), false)
    return writeCluster(
      cluster,
      rows,
      fromVector(body.translation(), units),
      fromQuaternion(body.rotation()),
      now,
      scale(spin, damped),
    )
  }
  const place = add(driven.place, add(scale(v, h), scale(a, (h * h) / 2)))
  const free = flyFreely(cluster, driven, h)
  const turning = scale(free.angularVelocity, damped)
  body.setTranslation(asVector(place, units), false)
  body.setRotation(asQuaternion(free.turned), false)
  setVelocity(world, body, flown, false)
  setSpin(world, body, turning, false)
  writeCluster(cluster, rows, place, free.turned, flown, turning)
}

/** Turning without contacts, the torque given half before and half after. */
function flyFreely({ inertia, axes }: ClusterMemory, { turned, angularVelocity, torque }: Driven, h: number) {
  const kick = (q: Quaternion, w: Vector): Vector => {
    if (dot(torque, torque) === 0) return w
    const frame = compose(q, axes)
    const gained = rotate(conjugate(frame), torque).map((t, i) => (t * h) / (2 * inertia[i]!)) as Vector
    return add(w, rotate(frame, gained))
  }
  const after = turnFreely(turned, kick(turned, angularVelocity), { inertia, axes }, h)
  return { turned: after.turned, angularVelocity: kick(after.turned, after.angularVelocity) }
}

/** The direction in which contacts push a particle; a touch is told where there was none before. */
function setTouch({ member: { population }, i }: Row, normal: Vector, { to }: ConstraintMoment): void {
  const { columns, events } = population
  const normals = floats(columns, 'contactNormal')
  const before = vectorOf(normals, i)
  writeVector(normals, i, normal)
  if (dot(normal, normal) === 0 || dot(before, before) > 0) return
  const place = subtract(
    vectorOf(floats(columns, 'position'), i),
    scale(normal, floats(columns, 'radius')[i]!),
  )
  events.add(eventOf('touch', to, view(columns, 'id')[i]!, { of: '', place, normal }))
}
