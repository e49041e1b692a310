/** What a step of the engine has made of bodies goes back to their particles; who touched nothing flies by equations of our own. */
import { turnFreely } from '../math/freeTop.ts'
import {
  add,
  cross,
  dot,
  length,
  scale,
  subtract,
  unit,
  vectorOf,
  writeVector,
  type Vector,
} from '../math/vector.ts'
import { compose, conjugate, rotate, type Quaternion } from '../math/quaternion.ts'
import { eventOf } from '../state/events.ts'
import type { ConstraintMoment } from './constraint.ts'
import type { Moving } from './rigidBodies.ts'
import { turnedBy, type Mover } from './rigidGroups.ts'
import {
  bodyOf,
  centreAt,
  fromQuaternion,
  placeOf,
  setPose,
  setSpin,
  setVelocity,
  spinOf,
  velocityOf,
  type Pose,
  type RigidWorld,
} from './rigidWorld.ts'

/** Shares of the velocity that rounding in the engine may come to. */
const ROUNDING = 4e-6
const STILL: Vector = [0, 0, 0]

/**
 * What a body is given in a substep: where its frame is put from where it was, that it sleeps on, or how it moves and what acts on it
 * (m/s² of its centre, N·m about that).
 */
export type Driven =
  | { held: Pose; from: Pose; carried: boolean }
  | { asleep: true }
  | (Pose & { velocity: Vector; spin: Vector; acceleration: Vector; torque: Vector })

/** Takes over where a body is now and how it moves: m, m/s, rad/s. */
export function readBack(world: RigidWorld, moving: Moving, moment: ConstraintMoment): void {
  const { mover, driven } = moving
  if ('held' in driven) {
    mover.memory.lies = null
    return readPut(mover, driven, moment)
  }
  mover.memory.carried = false
  const { memory } = mover
  const body = bodyOf(world, memory)
  const sleeps = body.isSleeping()
  if (sleeps && memory.lies && 'asleep' in driven) return write(mover, memory.lies, STILL, STILL)
  const now = { place: placeOf(world, body), turned: fromQuaternion(body.rotation()) }
  memory.lies = sleeps ? now : null
  if (sleeps) {
    if (!('asleep' in driven)) memory.restedUnder = driven.acceleration
    return write(mover, now, STILL, STILL)
  }
  const { h } = moment
  const [velocity, spin] = [velocityOf(world, body), spinOf(world, body)]
  const damping = Math.max(0, 1 - mover.member.feed.rule.spinDamping * h)
  const touched = touch(moving, velocity, moment)
  if ('asleep' in driven || touched) {
    const damped = scale(spin, damping)
    if (damping < 1) setSpin(world, body, damped, false)
    return write(mover, now, velocity, damped)
  }
  const flight = fly(mover, driven, h)
  const damped = scale(flight.spin, damping)
  setPose(world, body, flight, false)
  setVelocity(world, body, flight.velocity, false)
  setSpin(world, body, damped, false)
  write(mover, flight, flight.velocity, damped)
}

/** Where a body flies that touches nothing; a torque acts half before it turns and half after. */
function fly({ memory }: Mover, driven: Exclude<Driven, { held: Pose } | { asleep: true }>, h: number) {
  const { velocity, acceleration, torque } = driven
  const centre = add(centreAt(memory, driven), add(scale(velocity, h), scale(acceleration, (h * h) / 2)))
  const turning = dot(torque, torque) > 0
  const kick = (turned: Quaternion): Vector =>
    turning ? turnedBy(memory, turned, scale(torque, h / 2)) : STILL
  const { turned, angularVelocity } = turnFreely(driven.turned, add(driven.spin, kick(driven.turned)), memory, h) // prettier-ignore
  return {
    place: subtract(centre, rotate(turned, memory.centre)),
    turned,
    velocity: add(velocity, scale(acceleration, h)),
    spin: add(angularVelocity, kick(turned)),
  }
}

/** Whether a body touches anything, told to its particles. */
function touch({ mover, driven, impulses, touches }: Moving, velocity: Vector, moment: ConstraintMoment): boolean {
  const { h } = moment
  const asleep = 'asleep' in driven || 'held' in driven
  const flown = asleep ? STILL : add(driven.velocity, scale(driven.acceleration, h))
  const pushed = subtract(velocity, flown)
  const size = asleep ? 0 : length(driven.velocity) + length(driven.acceleration) * h
  let touched = asleep || length(pushed) > ROUNDING * size + 1e-9
  if (!impulses) {
    setTouch(mover, 0, touched ? unit(pushed) : STILL, moment)
    return touched
  }
  const untold = new Set(touches.map(({ part }) => part))
  mover.rows.forEach((_, k) => {
    const impulse = vectorOf(impulses, k * 2)
    const told = dot(impulse, impulse) > 0
    const normal = told && !asleep ? unit(rotate(driven.turned, impulse), STILL) : untold.has(k) ? unit(pushed, STILL) : STILL // prettier-ignore
    setTouch(mover, k, touched || told ? normal : STILL, moment)
  })
  // two contacts may press against one another
  for (let k = 0; k < impulses.length; k++) if (impulses[k] !== 0) touched = true
  return touched
} // prettier-ignore

/** A held body goes where it is put; who is carried goes with it. */
function readPut(
  mover: Mover,
  { held, from, carried }: Extract<Driven, { held: Pose }>,
  moment: ConstraintMoment,
): void {
  mover.rows.forEach((_, k) => setTouch(mover, k, STILL, moment))
  mover.memory.carried = carried
  if (!carried) return
  const { h } = moment
  const way = compose(held.turned, conjugate(from.turned))
  // the rotation vector of a small turn
  const sine = Math.sqrt(way[0] ** 2 + way[1] ** 2 + way[2] ** 2)
  const spin = scale([way[0], way[1], way[2]], ((way[3] < 0 ? -2 : 2) * (1 + (sine * sine) / 6)) / h)
  const [was, is] = [centreAt(mover.memory, from), centreAt(mover.memory, held)]
  write(mover, held, scale(subtract(is, was), 1 / h), spin)
}

/** Writes to the particles of a body where its frame is, the velocity of its centre and its spin. */
export function write(mover: Mover, pose: Pose, velocity: Vector, spin: Vector): void {
  const { memory, member: { columns }, rows } = mover // prettier-ignore
  memory.parts.forEach(({ offset }, k) => {
    const row = rows[k]!
    const alone = rows.length === 1
    const arm = (from: Vector): Vector => rotate(pose.turned, subtract(offset, from))
    writeVector(columns.position, row, dot(offset, offset) > 0 ? add(pose.place, arm(STILL)) : pose.place)
    writeVector(columns.velocity, row, alone ? velocity : add(velocity, cross(spin, arm(memory.centre))))
    writeVector(columns.angularVelocity, row, spin)
    columns.orientation.set(pose.turned, row * 4)
  })
}

/** The direction in which contacts push a part; a touch is told where there was none before. */
function setTouch(
  { member: { columns, ids, population }, rows }: Mover,
  part: number,
  normal: Vector,
  { to }: ConstraintMoment,
): void {
  const row = rows[part]!
  const before = vectorOf(columns.contactNormal, row)
  writeVector(columns.contactNormal, row, normal)
  if (dot(normal, normal) === 0 || dot(before, before) > 0) return
  const place = subtract(vectorOf(columns.position, row), scale(normal, columns.radius[row]!))
  population.events.add(eventOf('touch', to, ids[row]!, { of: '', place, normal }))
}
