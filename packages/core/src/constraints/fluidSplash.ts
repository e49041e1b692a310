/** Splashes: events where a liquid mixes with air, at which spray and foam can be born. The kernel is assembly/fluidSplash.ts, which says from where. */
import { layouts, type Machine } from '@tangle/kernels'
import { drawRandoms } from '../math/draw.ts'
import { STREAM } from '../math/random.ts'
import { unit } from '../math/vector.ts'
import { eventOf } from '../state/events.ts'
import { words } from '../state/columns.ts'
import type { ConstraintKind, ConstraintMoment, SolverBodies } from './constraint.ts'
import type { Fluid, LiquidRule } from './fluidTable.ts'
import { curvaturesOf } from './fluidTension.ts'
import { placeOfBody } from './solverBodies.ts'

const { F32 } = layouts
/** Draws are numbered by moments of so many in a frame. */
const MOMENTS = 4096

/** Tells who splashes in the substep. */
export function tellSplashes(
  kind: ConstraintKind<LiquidRule>,
  { count, table, walls }: Fluid,
  bodies: SolverBodies,
  moment: ConstraintMoment,
): void {
  const { machine, h, to } = moment
  const { heap } = machine
  const splashing = ratesOf(kind, bodies, heap)
  if (!splashing) return
  const { rates, fulls } = splashing
  const { block, moved, speeds } = bodies
  const of = heap.u32(table.bodies, count)
  const [full, ones, likely, rows] = [1, 1, 1, 4].map((words) => block((count + 4) * words * F32)) as [number, number, number, number] // prettier-ignore
  heap.f32(full, count).set(Array.from(of, (body) => fulls[body]!))
  heap.f32(ones, count + 1).fill(1)
  heap.f32(rows, (count + 1) * 4).fill(0)
  const { places, counts, slots, inverse } = table
  machine.run('gatherSpeeds', count, { bodies: table.bodies, speeds, inverse, rows })
  const { colours, curvatures } = curvaturesOf({ ...table, count, moved, walls: walls.at, tensions: ones, wettings: ones }, block, machine) // prettier-ignore
  machine.run('churnFluid', count, {
    places,
    counts,
    slots,
    rows,
    colours,
    curvatures,
    speeds: full,
    out: likely,
  })
  const chances = new Float32Array(bodies.count)
  const entries = new Uint32Array(bodies.count)
  const likelihood = heap.f32(likely, count)
  of.forEach((body, e) => {
    chances[body] = likelihood[e]! * rates[body]! * h
    entries[body] = e
  })
  const outward = heap.f32(colours, count * 4)
  for (const { population, first, count: own } of bodies.members) {
    const seed = population.feeds(kind).map(({ free, seed }) => (free(), seed))[0]
    if (seed === undefined) continue
    const all = words(population.columns, 'id')
    const rowsOf = Array.from({ length: own }, (_, i) => i).filter((i) => chances[first + i]! > 0)
    const ids = Uint32Array.from(rowsOf, (i) => all[i]!)
    const draws = drawRandoms(machine, ids, seed, STREAM.splash, Math.round(to * MOMENTS))
    rowsOf.forEach((i, k) => {
      const body = first + i
      if (draws[k * 4]! >= chances[body]!) return
      const at = entries[body]! * 4
      const normal = unit([outward[at]!, outward[at + 1]!, outward[at + 2]!], [0, 0, 0])
      population.events.add(eventOf('splash', to, ids[k]!, { place: placeOfBody(bodies, machine, body), normal })) // prettier-ignore
    })
  }
}

/** How often each body splashes at the most, per second, and the speed at which it does so in full, m/s; null where none does. */
function ratesOf(kind: ConstraintKind<LiquidRule>, { members, count }: SolverBodies, heap: Machine['heap']) {
  const [rates, fulls] = [new Float32Array(count), new Float32Array(count)]
  for (const { population, first, count: own } of members)
    for (const { rule, amount, free } of population.feeds(kind)) {
      const acts = heap.f32(amount, own)
      for (let i = 0; rule.splashes > 0 && i < own; i++)
        if (acts[i]! > 0 && rates[first + i] === 0) {
          rates[first + i] = rule.splashes
          fulls[first + i] = rule.splashSpeed
        }
      free()
    }
  return rates.some((one) => one > 0) ? { rates, fulls } : null
}
