/** What a frame says of its particles, summed up in their order. */
import { motionSums, phaseSums } from './layouts'
import { add4, any4, inRange4, load4, multiply4, notEqual4, splat4, where4 } from './lanes'
import { readF32, readF64, readI32, writeF64 } from './machine'

/** Sums of motion (see layouts) over a population with so many phases; `reach` is the distance from the origin beyond which one is astray, metres. */
export function sumMotion(
  count: i32, position: usize, velocity: usize, inverseMass: usize, phase: usize, phases: i32, reach: f64, out: usize,
): void {
  for (let k = 0; k < motionSums.SIZE + phases * phaseSums.SIZE; k++) writeF64(out, k, 0.0)
  let kinetic = 0.0
  let fastest = 0.0
  let astray = 0.0
  for (let i = 0; i < count; i++) {
    const mass = 1.0 / readF32(inverseMass, i)
    const x = readF32(position, i * 3)
    const y = readF32(position, i * 3 + 1)
    const z = readF32(position, i * 3 + 2)
    const u = readF32(velocity, i * 3)
    const v = readF32(velocity, i * 3 + 1)
    const w = readF32(velocity, i * 3 + 2)
    const squared = u * u + v * v + w * w
    kinetic += 0.5 * mass * squared
    if (squared > fastest) fastest = squared
    // what is no number is astray, too
    if (!(x * x + y * y + z * z <= reach * reach)) astray += 1.0
    const row = motionSums.SIZE + readI32(phase, i) * phaseSums.SIZE
    writeF64(out, row + phaseSums.count, readF64(out, row + phaseSums.count) + 1.0)
    writeF64(out, row + phaseSums.moment, readF64(out, row + phaseSums.moment) + mass * x)
    writeF64(out, row + phaseSums.moment + 1, readF64(out, row + phaseSums.moment + 1) + mass * y)
    writeF64(out, row + phaseSums.moment + 2, readF64(out, row + phaseSums.moment + 2) + mass * z)
  }
  writeF64(out, motionSums.kinetic, kinetic)
  writeF64(out, motionSums.fastest, fastest)
  writeF64(out, motionSums.astray, astray)
}

/** Of so many f32 the first that is infinite or no number; −1 where there is none. 0·x is 0 for all others. */
export function firstNotFinite(count: i32, column: usize): i32 {
  const zero = splat4(0.0)
  let sum = zero
  const whole = count & ~3
  for (let i = 0; i < whole; i += 4) sum = add4(sum, multiply4(load4(column, i), zero))
  const last = where4(inRange4(whole, count), multiply4(load4(column, whole), zero))
  if (!any4(notEqual4(add4(sum, last), zero))) return -1
  for (let i = 0; i < count; i++) if (readF32(column, i) * 0.0 != 0.0) return i
  return -1
}
