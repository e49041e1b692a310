/** The loads on the parts of a body that its bonds have to bear: forces of influences, blows of contacts, and its own inertia. */
import { conjugate, principalAxes, rotate, UNTURNED } from '../math/quaternion.ts'
import {
  add,
  cross,
  dot,
  length,
  scale,
  subtract,
  vectorOf,
  writeVector,
  type Vector,
} from '../math/vector.ts'
import type { ConstraintMoment } from './constraint.ts'
import type { Moving } from './rigidBodies.ts'
import type { Touch } from './rigidContacts.ts'
import { product, turnedBy } from './rigidGroups.ts'
import { inertiaAbout, type PartMemory } from './rigidWorld.ts'

/** Per part, in the body's frame: force, N, and torque about its centre, N·m; 6 numbers. */
export type Loads = Float64Array

/** Shares of a place that rounding in f32 may come to. */
const ROUNDING = 4e-7

/**
 * What acts on the parts of a body, as its bonds feel it: a blow counts as if it lasted `blow` seconds, whatever the substeps; what lasts
 * counts in full. The memory of the body goes on.
 */
export function feltLoads(moving: Moving, blow: number, moment: ConstraintMoment): Loads {
  const { memory } = moving.mover
  const now = loadsNow(moving, moment)
  if (memory.loads.length !== now.length) memory.loads = new Float64Array(now.length)
  const { loads } = memory
  const x = blow > 0 ? moment.h / blow : Infinity
  // 1 − e^(−x)
  const share = x > 8 ? 1 : 1 - 1 / (1 + x * (1 + (x / 2) * (1 + (x / 3) * (1 + x / 4))))
  const felt = now.map((value, i) => loads[i]! + (value - loads[i]!) * Math.min(1, x))
  for (let i = 0; i < now.length; i++) loads[i] = loads[i]! + (now[i]! - loads[i]!) * share
  addSwing(moving, felt)
  return felt
}

/** Mean loads over the substep. */
function loadsNow(moving: Moving, { h }: ConstraintMoment): Loads {
  const { mover: { memory, member: { columns }, rows }, driven, turned, gained } = moving // prettier-ignore
  const loads = moving.impulses!.map((x) => x / h)
  if (!('held' in driven)) addUntold(moving, loads, h)
  const back = conjugate(turned)
  memory.parts.forEach(({ mass }, k) => {
    let pull = gained[k]!
    if ('held' in driven && moving.wasCarried) {
      const swung = subtract(vectorOf(columns.velocity, rows[k]!), vectorOf(columns.startVelocity, rows[k]!))
      const noise = (ROUNDING * length(vectorOf(columns.position, rows[k]!))) / h
      if (dot(swung, swung) > noise * noise) pull = subtract(pull, swung)
    }
    writeVector(loads, k * 2, add(vectorOf(loads, k * 2), rotate(back, scale(pull, mass / h))))
    const twist = rotate(back, vectorOf(columns.torque, rows[k]!))
    writeVector(loads, k * 2 + 1, add(vectorOf(loads, k * 2 + 1), twist))
  })
  return loads
}

/** Of contacts that are nearest to touching, those so much farther off touch as well, as a share of the body's reach. */
const AS_NEAR = 0.02

/**
 * What the engine does not tell of contacts is what is missing in the momentum: where only friction is missing it acts where contacts press, as
 * they press; where it tells nothing, the force and the torque that are missing act at all points that touch, as on a group of bolts.
 */
function addUntold(moving: Moving, loads: Loads, h: number): void {
  const { mover, turned, gained, before, touches } = moving
  const { memory: { parts, centre }, member: { columns }, rows } = mover // prettier-ignore
  const back = conjugate(turned)
  let [force, torque]: [Vector, Vector] = [[0, 0, 0], [0, 0, 0]] // prettier-ignore
  parts.forEach(({ mass, offset, tensor }, k) => {
    const arm = subtract(offset, centre)
    const was = add(before.velocity, cross(before.spin, rotate(turned, arm)))
    const gain = subtract(subtract(vectorOf(columns.velocity, rows[k]!), was), gained[k]!)
    const own = rotate(back, scale(gain, mass / h))
    const spun = rotate(back, subtract(vectorOf(columns.angularVelocity, rows[k]!), before.spin))
    const told = vectorOf(loads, k * 2)
    force = add(force, subtract(own, told))
    torque = add(torque, add(cross(arm, subtract(own, told)), scale(product(tensor, spun), 1 / h)))
    const twist = rotate(back, vectorOf(columns.torque, rows[k]!))
    torque = subtract(torque, add(vectorOf(loads, k * 2 + 1), twist))
  })
  const mass = parts.reduce((sum, one) => sum + one.mass, 0)
  // rounding, as it flies by
  if (length(force) * h <= ROUNDING * mass * (length(before.velocity) + length(gained[0]!))) return
  if (touches.length > 0) return bolt(parts, centre, nearOnes(touches, parts, centre), force, torque, loads)
  const sizes = parts.map((_, k) => length(vectorOf(loads, k * 2)))
  const all = sizes.reduce((a, b) => a + b, 0)
  if (all === 0) return
  parts.forEach((_, k) =>
    writeVector(loads, k * 2, add(vectorOf(loads, k * 2), scale(force, sizes[k]! / all))),
  )
}

function nearOnes(touches: Touch[], parts: PartMemory[], centre: Vector): Touch[] {
  const reach = Math.max(
    ...parts.map(({ offset }) => length(subtract(offset, centre))),
    length(touches[0]!.arm),
  )
  const nearest = Math.min(...touches.map(({ away }) => away))
  return touches.filter(({ away }) => away <= nearest + AS_NEAR * reach)
}

const NO_TENSOR = [0, 0, 0, 0, 0, 0]

/** Lays a force and a torque about a centre on points that touch: the force evenly, the torque by their distance from their middle. */
function bolt(parts: PartMemory[], centre: Vector, points: Touch[], force: Vector, torque: Vector, loads: Loads): void {
  const places = points.map(({ part, arm }) => add(subtract(parts[part]!.offset, centre), arm))
  const middle = scale(places.reduce(add), 1 / points.length)
  const spread = inertiaAbout(places.map((offset) => ({ mass: 1, offset, tensor: NO_TENSOR })), middle)
  const { values, axes } = principalAxes(spread)
  const least = 1e-6 * Math.max(...values, 1e-30)
  const inertia = values.map((x) => (x > least ? x : Infinity)) as Vector
  const about = turnedBy({ inertia, axes }, UNTURNED, subtract(torque, cross(middle, force)))
  points.forEach(({ part, arm }, n) => {
    const own = add(scale(force, 1 / points.length), cross(about, subtract(places[n]!, middle)))
    writeVector(loads, part * 2, add(vectorOf(loads, part * 2), own))
    writeVector(loads, part * 2 + 1, add(vectorOf(loads, part * 2 + 1), cross(arm, own)))
  })
} // prettier-ignore

/** Parts of a body that spins pull outwards. */
function addSwing({ mover: { memory }, before, driven, turned }: Moving, loads: Loads): void {
  if ('held' in driven) return
  const spin = rotate(conjugate(turned), before.spin)
  memory.parts.forEach(({ mass, offset, tensor }, k) => {
    const arm = subtract(offset, memory.centre)
    const force = scale(cross(spin, cross(spin, arm)), -mass)
    writeVector(loads, k * 2, add(vectorOf(loads, k * 2), force))
    const torque = scale(cross(spin, product(tensor, spin)), -1)
    writeVector(loads, k * 2 + 1, add(vectorOf(loads, k * 2 + 1), torque))
  })
}

/** Loads on parts that nothing holds, less what it takes to speed them up together: what is left balances (d'Alembert). */
export function balanced(parts: PartMemory[], loads: Loads): Loads {
  const mass = parts.reduce((sum, one) => sum + one.mass, 0)
  let [centre, force, torque]: [Vector, Vector, Vector] = [[0, 0, 0], [0, 0, 0], [0, 0, 0]] // prettier-ignore
  for (const one of parts) centre = add(centre, scale(one.offset, one.mass / mass))
  parts.forEach(({ offset }, k) => {
    const own = vectorOf(loads, k * 2)
    force = add(force, own)
    torque = add(torque, add(vectorOf(loads, k * 2 + 1), cross(subtract(offset, centre), own)))
  })
  const { values, axes } = principalAxes(inertiaAbout(parts, centre))
  const turning = turnedBy({ inertia: values, axes }, UNTURNED, torque)
  const out = loads.slice()
  parts.forEach(({ mass: own, offset, tensor }, k) => {
    const gain = add(scale(force, 1 / mass), cross(turning, subtract(offset, centre)))
    writeVector(out, k * 2, subtract(vectorOf(loads, k * 2), scale(gain, own)))
    writeVector(out, k * 2 + 1, subtract(vectorOf(loads, k * 2 + 1), product(tensor, turning)))
  })
  return out
}
