import { radians } from '../math/functions.ts'
import {
  compose,
  conjugate,
  quaternionOf,
  turnBy,
  unitQuaternion,
  type Quaternion,
} from '../math/quaternion.ts'
import { add, length, scale, subtract, vectorOf, writeVector, type Vector } from '../math/vector.ts'
import { rotationVector, turnAt } from '../scene/turning.ts'
import { floats } from '../state/columns.ts'
import { number } from '../document/parameters.ts'
import { APPLIED, influence, type Substep } from './influence.ts'

/** Flies each back to its place on the mesh, which may move and turn, and turns it to fit; there it stays, exactly. */
export const dock = influence({
  kind: 'dock',
  family: 'goals',
  label: 'Fly home',
  glyph: '⌂',
  help: 'Brings each to where its own place on the mesh is now, turning it to fit; there it is locked on and goes along',
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
    const { columns, machine, amount, factors } = substep
    const { from, to, on } = substep.targets()
    const { heap } = machine
    const { count } = columns
    const [starts, ends] = [heap.f32(from, count * 3), heap.f32(to, count * 3)]
    const anchored = heap.u32(on, count * 2)
    const amounts = heap.f32(amount, count)
    const faster = factors('speed')
    const speeds = faster ? heap.f32(faster, count) : null
    const turns = new Map<number, { from: Quaternion; to: Quaternion }>()
    for (let i = 0; i < count; i++) {
      const body = anchored[i * 2]!
      if (!(amounts[i]! > 0) || body === 0) continue
      const limits = { ...values, speed: values.speed * (speeds?.[i] ?? 1) }
      lead(substep, i, vectorOf(starts, i), vectorOf(ends, i), limits, Math.min(1, amounts[i]!))
      if (!turns.has(body)) turns.set(body, turnsOf(substep, body))
      turnHome(substep, i, turns.get(body)!, limits)
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

const turnsOf = ({ bodies, from, to }: Substep, number: number): { from: Quaternion; to: Quaternion } => {
  const body = [...bodies.values()].find((one) => one.number === number)! // particles are anchored to bodies that are there
  return { from: turnAt(body, from), to: turnAt(body, to) }
}

/**
 * One substep of the way, as seen from the place. It takes on the speed at which an even braking of speed/ease would end at the place, at most
 * the limit, within about τ. The nearer, the shorter τ: a place that swings would else be followed at a distance.
 */
function lead(
  { columns, h }: Substep,
  i: number,
  from: Vector,
  to: Vector,
  { speed, ease, within }: Limits,
  share: number,
): void {
  const position = floats(columns, 'position')
  const [start, free] = [vectorOf(floats(columns, 'startPosition'), i), vectorOf(position, i)]
  const carried = scale(subtract(to, from), 1 / h)
  const away = subtract(from, start)
  const distance = length(away)
  const tau = (ease / 4) * Math.min(1, distance / (speed * ease))
  const wanted = distance > 0 ? scale(away, Math.min(speed, Math.sqrt((2 * speed * Math.max(distance, within)) / ease)) / distance) : ([0, 0, 0] as Vector) // prettier-ignore
  const before = subtract(vectorOf(floats(columns, 'startVelocity'), i), carried)
  const follows = distance <= within || tau === 0 ? 1 : 1 - 1 / (1 + h / tau + (h / tau) ** 2 / 2)
  const own = add(before, scale(subtract(wanted, before), follows))
  // who would fly past has arrived
  const isThere = distance <= within && length(own) * h >= distance
  const place = isThere ? to : subtract(to, subtract(away, scale(own, h)))
  const now = add(free, scale(subtract(place, free), share))
  writeVector(position, i, now)
  writeVector(floats(columns, 'velocity'), i, scale(subtract(now, start), 1 / h))
}

/** One substep of the turn, as seen from the mesh. */
function turnHome(
  { columns, h }: Substep,
  i: number,
  { from, to }: { from: Quaternion; to: Quaternion },
  { turn, ease, angle }: Limits,
): void {
  const orientation = floats(columns, 'orientation')
  const now = unitQuaternion(quaternionOf(orientation, i))
  const off = rotationVector(compose(conjugate(from), now))
  const left = length(off)
  const least = radians(angle)
  const step = Math.min(left, h * Math.min(radians(turn), (2 * Math.max(left, least)) / ease))
  const rest: Quaternion = left > step ? turnBy(scale(off, (left - step) / left)) : [0, 0, 0, 1]
  const next = unitQuaternion(compose(to, rest))
  orientation.set(next, i * 4)
  writeVector(
    floats(columns, 'angularVelocity'),
    i,
    scale(rotationVector(compose(next, conjugate(now))), 1 / h),
  )
}
