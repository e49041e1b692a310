/**
 * Forces on rigid bodies: what acts is asked at six points of each, which have its mass and its inertia between them. So forces that vary
 * over a body turn it, what slows its parts slows its spin, and drag knows its surface.
 */
import { RIGID_BODIES } from '../constraints/rigidKind.ts'
import { compose, quaternionOf, rotate, turnBy, unitQuaternion } from '../math/quaternion.ts'
import { cross, scale, vectorOf, type Vector } from '../math/vector.ts'
import { valuesAt } from '../document/keys.ts'
import type { Influence, Population } from '../document/types.ts'
import type { BodyShape } from '../constraints/bodyShape.ts'
import { influenceKind } from '../registry.ts'
import { attributeOf, floats, gatherRows, words, type Columns } from '../state/columns.ts'
import { bodyShapeOf, isRigid } from './bodyShapes.ts'
import { applyForces } from './influencePass.ts'
import type { Moment, PopulationState } from './world.ts'

/** The points of a body: two on each of its principal axes, and its middle, to compare them with. */
const POINTS = 7

/** Adds to the forces on bodies what they are more at their points than in their middle, and writes the torque that they make. */
export function applyBodyForces(population: PopulationState, moment: Moment): void {
  const { source, columns } = population
  if (!isRigid(source)) return
  floats(columns, 'torque').fill(0)
  const rows = freeRows(population)
  if (rows.length === 0 || !source.influences.some((one) => varies(one, moment))) return
  const { samples, offsets, free } = sampled(population, rows, moment)
  applyForces({ ...population, columns: samples }, moment, (one) => varies(one, moment))
  gather(columns, rows, samples, offsets, moment)
  free()
}

/** Rows in phases in which they are free. */
function freeRows({ source, columns }: PopulationState): number[] {
  const moves = source.phases.map((phase) => source.influences.some((one) => frees(one, phase)))
  return Array.from(words(columns, 'phase'), (phase, i) => (moves[phase] ? i : -1)).filter((i) => i >= 0)
}
const frees = ({ kind, muted, weights }: Influence, phase: Population['phases'][number]): boolean =>
  !muted && influenceKind(kind).constraint?.name === RIGID_BODIES.name && (weights[phase] ?? 0) > 0

/** Whether the force of an influence may differ over a body. Those between particles act on their middles. */
function varies(influence: Influence, { from, to }: Moment): boolean {
  const { applyForces, evenForce, interacts, parameters } = influenceKind(influence.kind)
  if (influence.muted || interacts) return false
  const even = evenForce?.(valuesAt(parameters, influence, (from + to) / 2))
  return even ? even.damping > 0 || (influence.responses?.length ?? 0) > 0 : applyForces !== undefined
}

/** The points of bodies as particles, half a substep on, with how far each is from the middle of its body. */
function sampled(population: PopulationState, rows: number[], moment: Moment) {
  const { columns } = population
  const { machine } = moment
  // kernels work on four at a time
  const count = Math.ceil((rows.length * POINTS) / 4) * 4
  const index = machine.heap.allocate(count * 4)
  machine.heap.u32(index, count).set(Array.from({ length: count }, (_, n) => rows[Math.floor(n / POINTS)] ?? rows[0]!)) // prettier-ignore
  const at = { ...columns.at }
  for (const name of columns.names) at[name] = gatherRows(machine, index, count, columns.at[name]!, attributeOf(columns, name).width) // prettier-ignore
  machine.heap.free(index)
  const samples: Columns = { ...columns, at, count, capacity: count }
  const offsets = placePoints(population, rows, samples, moment)
  const free = (): void => columns.names.forEach((name) => machine.heap.free(at[name]!))
  return { samples, offsets, free }
}

/** Moves samples to the points of their bodies. Gives how far each is from the middle, 3 numbers a sample. */
function placePoints(population: PopulationState, rows: number[], samples: Columns, moment: Moment): Float64Array {
  const { columns } = population
  const [spins, turns] = [floats(columns, 'angularVelocity'), floats(columns, 'orientation')]
  const [position, startPosition, velocity, radius] = (['position', 'startPosition', 'velocity', 'radius'] as const).map((name) => floats(samples, name)) as [Float32Array, Float32Array, Float32Array, Float32Array] // prettier-ignore
  const offsets = new Float64Array(rows.length * POINTS * 3)
  rows.forEach((row, n) => {
    const shape = bodyShapeOf(population, moment, row)
    const spin = vectorOf(spins, row)
    const half = compose(turnBy(scale(spin, moment.h / 2)), unitQuaternion(quaternionOf(turns, row)))
    // a body shows a quarter of its surface to the wind, whichever way it comes: Cauchy (1841), of convex ones in the mean
    const shown = shape.hulls.length > 0 ? Math.sqrt(shape.area / (4 * Math.PI)) : 0
    pointsOf(shape).forEach((point, k) => {
      const i = n * POINTS + k
      const arm = rotate(half, point)
      const sweep = cross(spin, arm)
      for (let axis = 0; axis < 3; axis++) {
        const at = i * 3 + axis
        offsets[at] = arm[axis]!
        position[at]! += arm[axis]!
        startPosition[at]! += arm[axis]!
        velocity[at]! += sweep[axis]!
      }
      if (shown > 0 && k < POINTS - 1) radius[i] = shown
    })
  })
  return offsets
} // prettier-ignore

/** Six equal masses at ± √(3·S) along the principal axes have the second moments S of a body: S₁ = (I₂ + I₃ − I₁) / 2 for mass 1. */
function pointsOf(shape: BodyShape): Vector[] {
  const known = points.get(shape)
  if (known) return known
  const { inertia, axes } = shape
  const half = (inertia[0] + inertia[1] + inertia[2]) / 2
  const onAxes = inertia.flatMap((i, axis) => {
    const along = Math.sqrt(3 * Math.max(0, half - i))
    return [1, -1].map((sign) => rotate(axes, [0, 1, 2].map((k) => (k === axis ? sign * along : 0)) as Vector)) // prettier-ignore
  })
  const made: Vector[] = [...onAxes, [0, 0, 0]]
  points.set(shape, made)
  return made
}
const points = new WeakMap<BodyShape, Vector[]>()

/** What acts on bodies in the mean of their points, and how it turns them. */
function gather(
  columns: Columns,
  rows: number[],
  samples: Columns,
  offsets: Float64Array,
  { machine, h }: Moment,
) {
  const [acceleration, damping] = [floats(samples, 'acceleration'), floats(samples, 'damping')]
  const before = floats(samples, 'velocity').slice()
  const { position, startPosition, velocity, age, phaseAge, travelled, ...of } = samples.at
  machine.run('integrate', samples.count, {
    position, startPosition, velocity, acceleration: of.acceleration, damping: of.damping, stiffness: of.stiffness,
    age, phaseAge, travelled, h, speedLimit: Infinity,
  }) // prettier-ignore
  const after = floats(samples, 'velocity')
  const [ownAcceleration, ownDamping, torque, lightness] = (['acceleration', 'damping', 'torque', 'inverseMass'] as const).map((name) => floats(columns, name)) as [Float32Array, Float32Array, Float32Array, Float32Array] // prettier-ignore
  rows.forEach((row, n) => {
    const middle = n * POINTS + POINTS - 1
    const [force, turning]: [Vector, Vector] = [[0, 0, 0], [0, 0, 0]] // prettier-ignore
    let rate = 0
    for (let k = n * POINTS; k < middle; k++) {
      const gain = [0, 0, 0]
      for (let axis = 0; axis < 3; axis++) {
        const [at, own] = [k * 3 + axis, middle * 3 + axis]
        force[axis]! += (acceleration[at]! - damping[k]! * (before[at]! - before[own]!)) / (POINTS - 1)
        gain[axis] = (after[at]! - before[at]!) / (POINTS - 1)
      }
      for (let axis = 0; axis < 3; axis++) {
        const [b, c] = [(axis + 1) % 3, (axis + 2) % 3]
        turning[axis]! += offsets[k * 3 + b]! * gain[c]! - offsets[k * 3 + c]! * gain[b]!
      }
      rate += damping[k]! / (POINTS - 1)
    }
    const mass = 1 / Math.max(lightness[row]!, 1e-30)
    for (let axis = 0; axis < 3; axis++) {
      ownAcceleration[row * 3 + axis]! += force[axis]! - acceleration[middle * 3 + axis]!
      torque[row * 3 + axis] = (turning[axis]! * mass) / h
    }
    ownDamping[row] = Math.max(0, ownDamping[row]! + rate - damping[middle]!)
  })
}
