/** How many substeps a frame takes: as many as the quality says, and more where a liquid is fast or deep for its size. */
import { BALL, LIGHTEST } from '../constraints/fluidTable.ts'
import { valueAt } from '../document/keys.ts'
import type { Keyed } from '../document/parameters.ts'
import { liquid } from '../influences/liquid.ts'
import { MOST_SUBSTEPS, pullAt } from '../schema/quality.ts'
import type { Population, QualityLevel } from '../document/types.ts'
import { floats } from '../state/columns.ts'
import type { PopulationState, World } from './world.ts'

/**
 * The share of its width that a particle of a liquid may go in a substep, at the speed of what moves or at the one that its pressure would give it
 * (Courant's number; 0.4: Monaghan, "Smoothed particle hydrodynamics", 1992, from memory). Above 0.65 a deep column shakes itself apart.
 */
const COURANT: Record<QualityLevel, number> = { draft: 0.6, good: 0.45, fine: 0.3, own: 0.6 }
/** As many particles of each population tell, and of these the fastest but for a hundredth: a drop of spray need not hold up all. */
const SAMPLE = 4096
const COUNTED = 0.99

/** For the frame that begins at `frame`; the same whenever it is asked, as it follows from the state of the particles. */
export function substepsAt(world: World, frame: number): number {
  const { quality, frames } = world.shot
  let wanted = quality.substeps
  for (const population of world.populations) {
    const { columns } = population
    // liquids, and what floats in them
    if (!columns.at.pressure || columns.count === 0) continue
    const { speed, width } = paceOf(world, population, frame)
    wanted = Math.max(wanted, speed / (COURANT[quality.level] * width * frames.rate))
  }
  return Math.ceil(Math.min(MOST_SUBSTEPS, wanted))
}

/** m/s at which a liquid may go within the frame, and the width of its particles. */
function paceOf({ shot }: World, { source, columns, isLiquid }: PopulationState, frame: number) {
  const [x, v, r, p] = (['position', 'velocity', 'radius', 'pressure'] as const).map((name) => floats(columns, name)) as [Float32Array, Float32Array, Float32Array, Float32Array] // prettier-ignore
  const w = floats(columns, 'inverseMass')
  const stride = Math.max(1, Math.ceil(columns.count / SAMPLE))
  const [speeds, pressures]: [number[], number[]] = [[], []]
  let [narrowest, fluffiest, low, high] = [Infinity, 0, Infinity, -Infinity]
  for (let i = 0; i < columns.count; i += stride) {
    const [a, b, c] = [v[i * 3]!, v[i * 3 + 1]!, v[i * 3 + 2]!]
    speeds.push(Math.sqrt(a * a + b * b + c * c))
    // P/ρ, ρ being that of a cell as wide as the particle
    const perDensity = w[i]! * (2 * r[i]!) ** 3 * BALL
    pressures.push(2 * p[i]! * perDensity)
    fluffiest = Math.max(fluffiest, perDensity)
    narrowest = Math.min(narrowest, r[i]!)
    low = Math.min(low, x[i * 3 + 1]!)
    high = Math.max(high, x[i * 3 + 1]!)
  }
  const pull = pullAt(source, frame)
  const most = (values: number[]): number =>
    Float64Array.from(values).sort()[Math.floor(COUNTED * (values.length - 1))]!
  const pressed = most(pressures) / lightest(source, frame)
  if (!isLiquid) return { speed: Math.sqrt(pressed), width: 2 * narrowest }
  // what has not been computed yet will bear what stands above it
  const fall = pressed > 0 ? pressed : (2 * pull * (high - low)) / lightest(source, frame)
  // the shortest wave of a surface is two widths long: √(2πσ/(ρλ)) (Lamb, "Hydrodynamics", 1932, §266)
  const ripple = Math.sqrt((Math.PI * tensionAt(source, frame) * fluffiest) / (2 * narrowest))
  const speed = Math.max(most(speeds) + pull / shot.frames.rate, Math.sqrt(fall), ripple)
  return { speed, width: 2 * narrowest }
}

/** N/m, the greatest of its liquids. */
const tensionAt = ({ influences }: Population, frame: number): number =>
  influences.reduce(
    (most, { kind, muted, tension }) =>
      muted || kind !== liquid.kind ? most : Math.max(most, valueAt(tension as Keyed, frame)),
    0,
  )

/** How light responses may make a liquid, times its density: the lighter, the faster pressure drives it. */
function lightest({ influences }: Population, frame: number): number {
  const weights = influences.flatMap(({ kind, muted, weight, responses = [] }) => {
    if (muted || kind !== liquid.kind) return []
    const factors = responses.flatMap(({ to, curve }) =>
      to === 'weight' ? [Math.min(...curve.map(([, value]) => value))] : [],
    )
    return [
      factors.reduce((product, one) => product * Math.max(LIGHTEST, one), valueAt(weight as Keyed, frame)),
    ]
  })
  return Math.max(LIGHTEST, Math.min(1, ...weights))
}
