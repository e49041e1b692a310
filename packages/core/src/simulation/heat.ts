/** Heat goes from warm particles to cold ones, of all populations that have a temperature, and out of those that lie bare. The kernels are assembly/heat.ts. */
import { layouts, type Machine } from '@tangle/kernels'
import type { Population } from '../document/types.ts'
import { valuesAt } from '../document/keys.ts'
import type { HeatRule } from '../influences/influence.ts'
import { influenceKind } from '../registry.ts'
import { listCellNeighbours, lowestOf, OUT_OF_REACH } from '../state/cellNeighbours.ts'
import { activeInfluences } from './influencePass.ts'
import type { Moment, PopulationState } from './world.ts'

const { MOST_FLUID_NEIGHBOURS, F32 } = layouts
/** Stages of a frame at the most: what would flow faster than these can follow flows as fast as they can. */
const MOST_STAGES = 99
/** °C of what nothing warms. */
const ROOM = 20

/** °C of those that are born at a frame. */
export function bornTemperature({ influences }: Population, frame: number): number {
  for (const one of influences) {
    const { heat, parameters } = influenceKind(one.kind)
    if (heat && !one.muted) return heat(valuesAt(parameters, one, frame) as never).born
  }
  return ROOM
}

/** What flows in a frame. */
export function conductHeat(moment: Moment): void {
  const { machine, populations, rate } = moment
  const { heap } = machine
  const warm = populations.flatMap((population) => warmOf(population, moment))
  const count = warm.reduce((sum, { population }) => sum + population.columns.count, 0)
  const owned = warm.map(({ free }) => free)
  if (count > 0) {
    const block = (words: number): number => {
      const pointer = heap.allocate(words * F32)
      owned.push(() => heap.free(pointer))
      return pointer
    }
    const crowd = gatherCrowd(machine, warm, count, block)
    const table = weigh(machine, crowd, count, block)
    const temperatures = evenOut(machine, table, count, 1 / rate, block)
    machine.run('keepHeat', count, { bodies: table.bodies, temperatures, warmth: crowd.warmth })
    let first = 0
    for (const { population } of warm) {
      const { columns } = population
      heap.f32(columns.at.temperature, columns.count).set(heap.f32(crowd.warmth + first * F32, columns.count))
      first += columns.count
    }
  }
  owned.forEach((free) => free())
}

interface Warm {
  population: PopulationState
  rule: HeatRule
  /** Pointer, f32 per particle. */
  amount: number
  free(): void
}

/** The first influence that gives a population its warmth now. */
function warmOf(population: PopulationState, moment: Moment): Warm[] {
  const [active, ...others] = activeInfluences(population, moment, ({ heat }) => heat)
  others.forEach(({ free }) => free())
  if (!active) return []
  const { kind, values, substep, free } = active
  return [{ population, rule: kind.heat!(values), amount: substep.amount, free }]
}

type Block = (words: number) => number
type Crowd = ReturnType<typeof gatherCrowd>
type Table = ReturnType<typeof weigh>

function gatherCrowd(machine: Machine, warm: Warm[], count: number, block: Block) {
  const crowd = {
    places: block(count * 3),
    spacing: block(count),
    warmth: block(count),
    traits: block(count * 4),
  }
  let first = 0
  for (const { population, rule, amount } of warm) {
    const { conductivity, loss, around, capacity, pace } = rule
    const { position, radius, inverseMass, temperature } = population.columns.at
    machine.run('crowdOfHeat', population.columns.count, {
      ...{ position, radius, inverseMass, temperature, amount, first, ...crowd },
      ...{ conductivity: conductivity * pace, loss: loss * pace, around, capacity },
    })
    first += population.columns.count
  }
  return crowd
}

/** Who is near whom, and what flows between them for a kelvin. */
function weigh(
  machine: Machine,
  { places: position, spacing, warmth, traits }: Crowd,
  count: number,
  block: Block,
) {
  const { heap } = machine
  const which = block(count)
  const all = heap.u32(which, count)
  for (let i = 0; i < count; i++) all[i] = i
  const bytes = (n: number): number => block(n / F32)
  const lists = listCellNeighbours(machine, { count, position, spacing, which, solid: 0 }, 1, bytes)
  const table = {
    traits,
    ...lists,
    places: block((count + 1) * 4),
    conductivities: block(count + 1),
    flows: block(count * MOST_FLUID_NEIGHBOURS),
    losses: block(count),
    rates: block(count),
    temperatures: block(count + 1),
  }
  const { bodies, counts, slots, places, conductivities, temperatures } = table
  heap.f32(places + count * 16, 4).set([OUT_OF_REACH, OUT_OF_REACH, OUT_OF_REACH, 0])
  heap.f32(conductivities, count + 1)[count] = 0
  heap.f32(temperatures, count + 1)[count] = 0
  const [lowX, lowY, lowZ] = lowestOf(heap.f32(position, count * 3))
  machine.run('placeHeat', count, { bodies, position, spacing, warmth, traits, lowX, lowY, lowZ, places, conductivities, temperatures }) // prettier-ignore
  const { flows, losses, rates } = table
  machine.run('weighHeat', count, {
    places,
    bodies,
    counts,
    slots,
    conductivities,
    traits,
    flows,
    losses,
    rates,
  })
  return table
}

/**
 * Temperatures after so many seconds: an explicit step of s stages that is stable to (s² + s)/2 times what a single one is, and keeps the heat that there is.
 * Source: Meyer, Balsara, Aslam, "A second-order accurate Super TimeStepping formulation" (2012), RKL1.
 */
function evenOut(machine: Machine, table: Table, count: number, seconds: number, block: Block): number {
  const { heap } = machine
  const { bodies, counts, slots, flows, losses, traits, rates, temperatures } = table
  let fastest = 0
  for (const one of heap.f32(rates, count)) fastest = Math.max(fastest, one)
  const wanted = Math.ceil((Math.sqrt(1 + 8 * seconds * fastest) - 1) / 2)
  const stages = Math.min(MOST_STAGES, Math.max(1, wanted))
  const reach = (stages * stages + stages) / 2
  const h = Math.min(seconds, reach / fastest)
  let [now, before, spare] = [temperatures, block(count + 1), block(count + 1)] as [number, number, number]
  for (const one of [before, spare]) heap.f32(one, count + 1).fill(0)
  for (let j = 1; j <= stages; j++) {
    const [mu, nu] = j === 1 ? [1, 0] : [(2 * j - 1) / j, (1 - j) / j]
    machine.run('conductHeat', count, { bodies, counts, slots, flows, losses, traits, now, before, mu, nu, step: (mu * h) / reach, out: spare }) // prettier-ignore
    ;[now, before, spare] = [spare, now, before]
  }
  return now
}
