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
  if (!('held' in driven)) addFriction(moving, loads, h)
  const back = conjugate(turned)
  memory.parts.forEach(({ mass }, k) => {
    let pull = gained[k]!
    if ('held' in driven && moving.wasCarried) {
      const swung = subtract(vectorOf(columns.velocity, rows[k]!), vectorOf(columns.startVelocity, rows[k]!))
      const noise = (ROUNDING * length(vectorOf(columns.position, rows[k]!))) / h
      if (dot(swung, swung) > noise * noise) pull = subtract(pull, swung)
    }
    writeVector(loads, k * 2, add(vectorOf(loads, k * 2), rotate(back, scale(pull, mass / h))))
  })
  return loads
}

/** The engine does not tell the friction of contacts: what is missing in the momentum acts where they press, as they press. */
function addFriction({ mover, turned, gained, before }: Moving, loads: Loads, h: number): void {
  const { memory: { parts }, member: { columns }, rows } = mover // prettier-ignore
  const sizes = parts.map((_, k) => length(vectorOf(loads, k * 2)))
  const all = sizes.reduce((a, b) => a + b, 0)
  if (all === 0) return
  let change: Vector = [0, 0, 0]
  parts.forEach(({ mass }, k) => {
    const own = subtract(vectorOf(columns.velocity, rows[k]!), before.velocity)
    change = add(change, scale(subtract(own, gained[k]!), mass / h))
  })
  let missing = rotate(conjugate(turned), change)
  parts.forEach((_, k) => (missing = subtract(missing, vectorOf(loads, k * 2))))
  parts.forEach((_, k) =>
    writeVector(loads, k * 2, add(vectorOf(loads, k * 2), scale(missing, sizes[k]! / all))),
  )
}

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
