/** What a step of the engine has made of bodies goes back to their particles; who touched nothing flies by equations of our own. */
import { turnFreely } from '../math/freeTop.ts'
import {
  add,
  dot,
  length,
  scale,
  subtract,
  unit,
  vectorOf,
  writeVector,
  type Vector,
} from '../math/vector.ts'
import { eventOf } from '../state/events.ts'
import type { ConstraintMoment } from './constraint.ts'
import type { Row } from './rigidMembers.ts'
import {
  asQuaternion,
  asVector,
  bodyOf,
  fromQuaternion,
  placeOf,
  setSpin,
  setVelocity,
  spinOf,
  velocityOf,
  type BodyMemory,
  type Pose,
  type RigidWorld,
} from './rigidWorld.ts'

/** Shares of the velocity that rounding in the engine may come to. */
const ROUNDING = 4e-6
const STILL: Vector = [0, 0, 0]

/** What a body is given in a substep: where it is put from where it was, that it sleeps on, or what acts on it. */
export type Driven =
  | { held: Pose; from: Pose }
  | { asleep: true }
  | (Pose & { velocity: Vector; spin: Vector; acceleration: Vector })

/** Takes over where a body is now and how it moves: m, m/s, rad/s. */
export function readBack(
  world: RigidWorld,
  memory: BodyMemory,
  driven: Driven,
  row: Row,
  moment: ConstraintMoment,
): void {
  // it goes where it is put
  if ('held' in driven) return setTouch(row, STILL, moment)
  const body = bodyOf(world, memory)
  const now = { place: placeOf(world, body), turned: fromQuaternion(body.rotation()) }
  if (body.isSleeping()) {
    if (!('asleep' in driven)) memory.restedUnder = driven.acceleration
    return write(row, now, STILL, STILL)
  }
  const { h } = moment
  const [velocity, spin] = [velocityOf(world, body), spinOf(world, body)]
  const damping = Math.max(0, 1 - row.member.feed.rule.spinDamping * h)
  const flown = 'asleep' in driven ? STILL : add(driven.velocity, scale(driven.acceleration, h))
  const pushed = subtract(velocity, flown)
  const size = 'asleep' in driven ? 0 : length(driven.velocity) + length(driven.acceleration) * h
  if ('asleep' in driven || length(pushed) > ROUNDING * size + 1e-9) {
    setTouch(row, unit(pushed), moment)
    const damped = scale(spin, damping)
    if (damping < 1) setSpin(world, body, damped, false)
    return write(row, now, velocity, damped)
  }
  setTouch(row, STILL, moment)
  const place = add(driven.place, add(scale(driven.velocity, h), scale(driven.acceleration, (h * h) / 2)))
  const { turned, angularVelocity } = turnFreely(driven.turned, driven.spin, memory, h)
  const damped = scale(angularVelocity, damping)
  body.setTranslation(asVector(place, world.memory.unit), false)
  body.setRotation(asQuaternion(turned), false)
  setVelocity(world, body, flown, false)
  setSpin(world, body, damped, false)
  write(row, { place, turned }, flown, damped)
}

function write(
  { member: { columns }, i }: Row,
  { place, turned }: Pose,
  velocity: Vector,
  spin: Vector,
): void {
  writeVector(columns.position, i, place)
  writeVector(columns.velocity, i, velocity)
  writeVector(columns.angularVelocity, i, spin)
  columns.orientation.set(turned, i * 4)
}

/** The direction in which contacts push a particle; a touch is told where there was none before. */
function setTouch(
  { member: { columns, ids, population }, i }: Row,
  normal: Vector,
  { to }: ConstraintMoment,
): void {
  const before = vectorOf(columns.contactNormal, i)
  writeVector(columns.contactNormal, i, normal)
  if (dot(normal, normal) === 0 || dot(before, before) > 0) return
  const place = subtract(vectorOf(columns.position, i), scale(normal, columns.radius[i]!))
  population.events.add(eventOf('touch', to, ids[i]!, { of: '', place, normal }))
}
