import { radians } from '../math/functions.ts'
import {
  compose,
  conjugate,
  quaternionOf,
  turnBy,
  unitQuaternion,
  type Quaternion,
  UNTURNED,
} from '../math/quaternion.ts'
import { add, length, scale, subtract, vectorOf, writeVector, type Vector } from '../math/vector.ts'
import { homeTurn } from '../scene/piecePoses.ts'
import { rotationVector } from '../scene/turning.ts'
import { floats, words } from '../state/columns.ts'
import { number } from '../document/parameters.ts'
import { APPLIED, influence } from './influence.ts'

/** Flies each back to its place on the mesh, which may move and turn, and turns it to fit; there it stays, exactly. */
export const dock = influence({
  kind: 'dock',
  family: 'goals',
  leadsHome: true,
  label: 'Fly home',
  glyph: '⌂',
  help: 'Brings each to where its own place on the mesh is now, turning it to fit; there it is locked on and goes along',
  pitfall: 'They push one another away at the end: let collisions end in the phase in which they fly home.',
  source: 'Even braking with limited speed: v² = 2·a·d; turning about the axis of the shortest way',
  attributes: ['anchor', 'anchorAt', 'orientation', 'angularVelocity', 'startVelocity'],
  radii: [{ of: 'within', about: 'goals' }],
  parameters: {
    strength: { ...APPLIED, help: '1 leads them whatever else acts; below, other motion shows through' },
    speed: number({
      label: 'Speed',
      unit: 'm/s',
      help: 'At most, beside that of the place they fly to',
      default: 1.5,
      range: [0.0001, 1e4],
      usual: [0.1, 10],
      step: 0.1,
      keyable: true,
      responsive: true,
    }),
    ease: number({
      label: 'Ease',
      unit: 's',
      help: 'Time in which they gather speed, and lose it before they arrive',
      default: 0.5,
      range: [0.001, 100],
      usual: [0.05, 3],
      step: 0.05,
      keyable: true,
    }),
    turn: number({
      label: 'Turns',
      unit: '°/s',
      help: 'At most',
      default: 240,
      range: [0.1, 1e5],
      usual: [10, 720],
      step: 10,
      keyable: true,
    }),
    within: number({
      label: 'Docks within',
      unit: 'm',
      help: 'From here on the rest of the way is done at an even speed, to the very place',
      default: 0.01,
      range: [1e-6, 1e4],
      usual: [0.001, 0.2],
      step: 0.001,
    }),
    angle: number({
      label: 'Docks at',
      unit: '°',
      help: 'And from this angle on the rest of the turn',
      default: 5,
      range: [0.01, 180],
      usual: [0.5, 30],
      step: 0.5,
    }),
  },
  projectPositions(values, substep) {
    const { columns, machine, amount, factors, bodies, h } = substep
    const places = substep.targets()
    const { heap } = machine
    const { count } = columns
    const [starts, ends] = [heap.f32(places.from, count * 3), heap.f32(places.to, count * 3)]
    const [on, amounts] = [heap.u32(places.on, count * 2), heap.f32(amount, count)]
    const factor = factors('speed')
    const faster = factor ? heap.f32(factor, count) : null
    const [position, startPosition] = [floats(columns, 'position'), floats(columns, 'startPosition')]
    const [velocity, startVelocity] = [floats(columns, 'velocity'), floats(columns, 'startVelocity')]
    const [orientation, spin] = [floats(columns, 'orientation'), floats(columns, 'angularVelocity')]
    const byNumber = new Map([...bodies.values()].map((body) => [body.number, body]))
    const pieces = columns.at.piece ? words(columns, 'piece') : null
    for (let i = 0; i < count; i++) {
      const body = byNumber.get(on[i * 2]!)
      if (!(amounts[i]! > 0) || !body) continue
      const home = [substep.from, substep.to].map((frame) => homeTurn(body, pieces?.[i] ?? 0, frame)) as [Quaternion, Quaternion] // prettier-ignore
      const start = vectorOf(startPosition, i)
      const [from, to] = [vectorOf(starts, i), vectorOf(ends, i)]
      const carried = scale(subtract(to, from), 1 / h)
      const limits = { ...values, speed: values.speed * (faster?.[i] ?? 1) }
      const away = approach(subtract(from, start), subtract(vectorOf(startVelocity, i), carried), limits, h)
      const free = vectorOf(position, i)
      const now = add(free, scale(subtract(subtract(to, away), free), Math.min(1, amounts[i]!)))
      writeVector(position, i, now)
      writeVector(velocity, i, scale(subtract(now, start), 1 / h))
      const before = unitQuaternion(quaternionOf(orientation, i))
      const rest = turnLeft(compose(conjugate(home[0]), before), values, h)
      const next = unitQuaternion(compose(home[1], rest))
      orientation.set(next, i * 4)
      writeVector(spin, i, scale(rotationVector(compose(next, conjugate(before))), 1 / h))
    }
  },
})

interface Limits {
  speed: number
  ease: number
  turn: number
  within: number
  angle: number
}

/**
 * The way that is left after a substep, as seen from the place; zeros: it is there. It takes on the speed at which an even braking of
 * speed/ease would end at the place, at most the limit, within about τ. The nearer, the shorter τ: a place that swings would else be followed
 * at a distance.
 */
function approach(away: Vector, velocity: Vector, { speed, ease, within }: Limits, h: number): Vector {
  const distance = length(away)
  if (distance === 0) return away
  const tau = (ease / 4) * Math.min(1, distance / (speed * ease))
  const braking = Math.sqrt((2 * speed * Math.max(distance, within)) / ease)
  const wanted = scale(away, Math.min(speed, braking) / distance)
  const follows = distance <= within ? 1 : 1 - 1 / (1 + h / tau + (h / tau) ** 2 / 2)
  const own = add(velocity, scale(subtract(wanted, velocity), follows))
  // who would fly past has arrived
  const arrives = distance <= within && length(own) * h >= distance
  return arrives ? [0, 0, 0] : subtract(away, scale(own, h))
}

/** The turn that is left after a substep, as seen from the mesh. */
function turnLeft(off: Quaternion, { turn, ease, angle }: Limits, h: number): Quaternion {
  const axis = rotationVector(off)
  const left = length(axis)
  const step = h * Math.min(radians(turn), (2 * Math.max(left, radians(angle))) / ease)
  return left > step ? turnBy(scale(axis, (left - step) / left)) : UNTURNED
}
