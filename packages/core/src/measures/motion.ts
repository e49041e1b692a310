/** What is measured of how particles move. */
import { layouts } from '@tangle/kernels'
import { valueAt, valuesAt } from '../document/keys.ts'
import { influenceKind } from '../registry.ts'
import type { PopulationState, World } from '../simulation/world.ts'
import { floats } from '../state/columns.ts'

const { motionSums, phaseSums } = layouts

export interface MotionMeasures {
  /** How many are in each phase. */
  phases: number[]
  /** m/s: median, 90 % and highest. */
  speed: { median: number; high: number; most: number }
  /** Particles far outside everything. */
  astray: number
  /** J: of motion, and in the even pulls that act now. */
  kinetic: number
  potential: number
}

/** At most this many particles are sorted for a percentile; they are taken evenly. */
export const SAMPLE = 4096

/** @param reach metres from the origin beyond which one is astray */
export function measureMotion(
  { machine }: World,
  population: PopulationState,
  frame: number,
  reach: number,
): MotionMeasures {
  const { columns, source } = population
  const { heap } = machine
  const { count, at } = columns
  const { position, velocity, inverseMass, phase } = at
  const phases = source.phases.length
  const size = motionSums.SIZE + phases * phaseSums.SIZE
  const out = heap.allocate(size * 8)
  machine.call('sumMotion', { count, position, velocity, inverseMass, phase, phases, reach, out })
  const sums = heap.f64(out, size).slice()
  heap.free(out)
  const rows = source.phases.map((_, k) => sums.subarray(motionSums.SIZE + k * phaseSums.SIZE))
  let potential = 0
  for (const { pull, by } of pullsOf(population, frame))
    rows.forEach((row, k) =>
      pull.forEach((a, axis) => (potential -= by[k]! * a * row[phaseSums.moment + axis]!)),
    )
  return {
    phases: rows.map((row) => row[phaseSums.count]!),
    speed: speedsOf(population, Math.sqrt(sums[motionSums.fastest]!)),
    astray: sums[motionSums.astray]!,
    kinetic: sums[motionSums.kinetic]!,
    potential,
  }
}

/** The even pulls that act at a frame, m/s², and how much of each a phase gets. */
const pullsOf = ({ source }: PopulationState, frame: number) =>
  source.influences.flatMap((one) => {
    const { evenForce, parameters } = influenceKind(one.kind)
    const force = one.muted ? null : evenForce?.(valuesAt(parameters, one, frame))
    // what damps has no potential
    if (!force || force.damping > 0) return []
    const strength = valueAt(one.strength, frame)
    return [
      { pull: force.acceleration, by: source.phases.map((name) => strength * (one.weights[name] ?? 0)) },
    ]
  })

function speedsOf({ columns }: PopulationState, most: number): MotionMeasures['speed'] {
  const velocity = floats(columns, 'velocity')
  const stride = Math.max(1, Math.ceil(columns.count / SAMPLE))
  const sample: number[] = []
  for (let o = 0; o < velocity.length; o += 3 * stride)
    sample.push(velocity[o]! ** 2 + velocity[o + 1]! ** 2 + velocity[o + 2]! ** 2)
  const at = percentiles(sample)
  return { median: Math.sqrt(at(0.5)), high: Math.sqrt(at(0.9)), most }
}

/** The value below which a share of a sample lies; 0 of an empty one. */
export function percentiles(sample: number[]): (share: number) => number {
  const sorted = Float64Array.from(sample).sort()
  return (share) => sorted[Math.floor(share * (sorted.length - 1))] ?? 0
}
