/** What a frame says of its particles, summed up in their order. */
import { motionSums, phaseSums } from './layouts'
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
