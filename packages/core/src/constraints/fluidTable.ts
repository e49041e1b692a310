/** What a liquid is in a substep: who is of it, who is near whom, how thick it is, and the walls about it. */
import { layouts, type Machine } from '@tangle/kernels'
import { listCellNeighbours, lowestOf, OUT_OF_REACH } from '../state/cellNeighbours.ts'
import { floats } from '../state/columns.ts'
import type {
  ConstrainedPopulation,
  ConstraintKind,
  ConstraintMoment,
  Member,
  SolverBodies,
} from './constraint.ts'
import { tensionFor, wettingOf } from './fluidTension.ts'
import { typicalGain } from './solverBodies.ts'

const { bodyRow, contactPlane, fluidWall, MOST_FLUID_NEIGHBOURS, F32 } = layouts

export interface LiquidRule {
  /** Pa·s */
  viscosity: number
  /** How heavy it is, times what its density makes it. */
  weight: number
  /** Strength of vorticity confinement, ε. */
  swirl: number
  /** N/m */
  tension: number
  /** Degrees. */
  contactAngle: number
  /** Per second, of each where it mixes with air, and the speed, m/s, at which it does so in full. */
  splashes: number
  splashSpeed: number
}

/** What floats in liquids: it takes part in theirs, and is none. */
export const FLOATING: ConstraintKind<Record<string, never>> = {
  name: 'floating',
  does: 'what is in a liquid pushes it aside, floats or sinks, and is carried along',
  couples: true,
  prepare: () => null,
}

/** Neighbours are looked for within this many times the support: in a substep they come a little nearer. */
const MARGIN = 1.05
/** A ball as a share of the cell that is as wide. */
export const BALL = Math.PI / 6
/** What is smaller than particles can tell is stilled by a viscosity of so many ρ·s·√(a·s), a being what acts on most: common practice, no source. */
const STILLING = 0.02
/** The same of ripples that are, by so many √(ρ·σ·s): common practice, no source. */
const RIPPLING = 0.2
/** Pa·s of what is solid: what is between it and a liquid is twice as thick as that (a harmonic mean). */
const STIFF = 1e9
/** The tension of what is solid. */
const SOLID = -1
/** Nobody is lighter than this, times its density. */
export const LIGHTEST = 1e-3

/** What is at work in a substep; all pointers, in the order of cells but for those of `stored`, which are in that of bodies. */
export interface Fluid {
  count: number
  table: {
    bodies: number
    places: number
    inverse: number
    counts: number
    slots: number
    gradients: number
    slopes: number
    own: number
    pressure: number
    change: number
    viscosities: number
    clings: number
    swirls: number
    tensions: number
    wettings: number
    wallOf: number
  }
  low: [number, number, number]
  walls: { at: number; lay(): void }
  stored: Stored
  dense: number
  room: number
}
export interface Stored {
  /** Pressures as the substep began, and those that they have come to, Pa. */
  was: number
  pressure: number
  compression: number
}

/** Who is liquid now, and their neighbours; null where nobody is. */
export function gatherFluid(
  kind: ConstraintKind<LiquidRule>,
  bodies: SolverBodies,
  moment: ConstraintMoment,
): Fluid | null {
  const { machine } = moment
  const { heap } = machine
  const { count: total, block, starts, moved } = bodies
  const [which, solid] = [block(total * 4), block(total * 4)]
  const numbers = (): Float32Array => heap.f32(block(total * 4), total)
  const traits = {
    thick: numbers(),
    heavy: numbers(),
    swirl: numbers(),
    tension: numbers(),
    wetting: numbers(),
    solid: heap.u32(solid, total),
  }
  const count = selectLiquid(kind, bodies, heap.u32(which, total), traits, machine)
  if (count === 0) return null
  weighDown(bodies, traits.heavy, machine)
  const [position, spacing] = [block(count * 12), block(count * 4)]
  machine.run('crowdOfFluid', count, { which, starts, moved, position, spacing })
  const words = (n: number): number => block(n * F32)
  const table = {
    ...listCellNeighbours(machine, { count, position, spacing, which, solid }, MARGIN, block),
    places: words((count + 1) * 4),
    inverse: words(count + 1),
    gradients: words(count * MOST_FLUID_NEIGHBOURS),
    slopes: words(count * MOST_FLUID_NEIGHBOURS * 3),
    own: words((count + 1) * 4),
    pressure: words(count + 4),
    change: words(count + 4),
    viscosities: words(count + 1),
    clings: words(count + 1),
    swirls: words(count + 1),
    tensions: words(count + 1),
    wettings: words(count + 1),
    wallOf: words(total),
  }
  spreadTraits(bodies, traits, table, count, moment)
  const places = heap.f32(position, count * 3)
  const low = lowestOf(places)
  heap.f32(table.places + count * 16, 4).set([OUT_OF_REACH, OUT_OF_REACH, OUT_OF_REACH, 0])
  heap.f32(table.inverse, count + 1)[count] = 0
  heap.f32(table.change, count + 1)[count] = 0
  heap.f32(table.pressure, count + 1)[count] = 0
  const stored = { was: words(total), pressure: words(total), compression: words(total) }
  // who is no liquid now bears nothing
  for (const at of Object.values(stored)) heap.f32(at, total).fill(0)
  forEachLiquid(bodies, ({ columns }, name, first) => {
    if (name === 'pressure') heap.f32(stored.was, total).set(floats(columns, name), first)
  })
  return {
    count,
    table,
    low,
    walls: wallsOf(bodies, table.wallOf, machine),
    stored,
    dense: words(count + 4),
    room: words(count + 4),
  }
}

/** What each body is as a liquid: Pa·s, how heavy times its density, and how much it swirls; what is none is as heavy as it is. Of each that takes part: whether it floats in it as a solid. */
interface Traits {
  thick: Float32Array
  heavy: Float32Array
  swirl: Float32Array
  tension: Float32Array
  wetting: Float32Array
  solid: Uint32Array
}

/** Bodies that are liquid in this substep, or float: how many, 0 where none is liquid; their traits are by the first influence that makes them one. */
function selectLiquid(
  kind: ConstraintKind<LiquidRule>,
  { members }: SolverBodies,
  which: Uint32Array,
  { thick, heavy, swirl, tension, wetting, solid }: Traits,
  { heap }: Machine,
): number {
  let [found, liquid] = [0, 0]
  heavy.fill(1)
  for (const { population, first, count } of members) {
    const afloat = population.feeds(FLOATING).map((feed) => ({ ...feed, rule: null }))
    const feeds = [...population.feeds(kind), ...afloat]
    const columns = feeds.map(({ amount, rule, factors }) => {
      const factor = (name: string): Float32Array | null => {
        const pointer = factors(name)
        return pointer === 0 ? null : heap.f32(pointer, count)
      }
      const [viscosities, weights] = [factor('viscosity'), factor('weight')]
      return { rule, amount: heap.f32(amount, count), viscosities, weights, wets: rule ? wettingOf(rule.contactAngle) : 0 } // prettier-ignore
    })
    for (let i = 0; columns.length > 0 && i < count; i++) {
      const one = columns.find(({ amount }) => amount[i]! > 0)
      if (!one) continue
      const { rule, viscosities, weights, wets } = one
      solid[found] = rule ? 0 : 1
      if (rule) liquid++
      thick[first + i] = rule ? rule.viscosity * Math.max(0, viscosities?.[i] ?? 1) : STIFF
      swirl[first + i] = rule?.swirl ?? 0
      tension[first + i] = rule ? rule.tension : SOLID
      wetting[first + i] = wets
      heavy[first + i] = rule ? rule.weight * Math.max(LIGHTEST, weights?.[i] ?? 1) : 1
      which[found++] = first + i
    }
    feeds.forEach(({ free }) => free())
  }
  return liquid === 0 ? 0 : found
}

/** They give way as much less as they are heavier, and push as much more. */
function weighDown({ moved, count }: SolverBodies, heavy: Float32Array, { heap }: Machine): void {
  if (heavy.every((one) => one === 1)) return
  const rows = heap.f32(moved, count * bodyRow.SIZE)
  for (let i = 0; i < count; i++) rows[i * bodyRow.SIZE + bodyRow.inverseMass]! /= heavy[i]!
}

/** Their numbers entry by entry. */
function spreadTraits(
  all: SolverBodies,
  { thick, swirl, tension, wetting }: Traits,
  { bodies, viscosities, clings, swirls, tensions, wettings }: Fluid['table'],
  count: number,
  { machine: { heap }, h }: ConstraintMoment,
): void {
  const pull = typicalGain(all) / h
  const [starts, moved] = [heap.f32(all.starts, all.count * 4), heap.f32(all.moved, all.count * 4)]
  const [of, mu, wall, swirling, pulling, wet] = [
    heap.u32(bodies, count),
    heap.f32(viscosities, count + 1),
    heap.f32(clings, count + 1),
    heap.f32(swirls, count + 1),
    heap.f32(tensions, count + 1),
    heap.f32(wettings, count + 1),
  ]
  for (let e = 0; e < count; e++) {
    const body = of[e]!
    swirling[e] = swirl[body]!
    const s = 2 * starts[body * bodyRow.SIZE + bodyRow.radius]!
    const w = moved[body * bodyRow.SIZE + bodyRow.inverseMass]!
    const density = w > 0 ? 1 / (w * BALL * s ** 3) : 0
    // solids meet walls by friction
    wall[e] = thick[body]! < STIFF ? thick[body]! : 0
    pulling[e] = tension[body]!
    wet[e] = wetting[body]!
    const rippling =
      RIPPLING *
      Math.sqrt(density * Math.max(0, Math.min(tension[body]!, tensionFor(density * s ** 3, h))) * s)
    // a line where a surface ends on a wall is slow to move
    wall[e]! += rippling
    mu[e] = thick[body]! + STILLING * density * s * Math.sqrt(pull * s) + rippling
  }
  mu[count] = 0
  pulling[count] = SOLID
}

/** The walls near liquids, laid once contacts with meshes have found their planes. */
function wallsOf(bodies: SolverBodies, wallOf: number, machine: Machine): Fluid['walls'] {
  const { heap } = machine
  const { block, count: total, starts } = bodies
  const walls = {
    at: 0,
    lay() {
      heap.u32(wallOf, total).fill(2 ** 32 - 1)
      const near = bodies.members.flatMap((member) => pressedOf(member, block, machine) ?? [])
      const all = near.reduce((sum, { count }) => sum + count, 0)
      walls.at = all === 0 ? 0 : block(all * contactPlane.COUNT * fluidWall.SIZE * F32)
      let base = 0
      for (const { member, pressed, count } of near) {
        const { first, planes, offsets } = member
        machine.run('layFluidWalls', count, {
          pressed,
          planes,
          first,
          base,
          starts,
          offsets,
          walls: walls.at,
          wallOf,
        })
        base += count
      }
    },
  }
  return walls
}

function pressedOf(member: Member, block: (bytes: number) => number, machine: Machine) {
  const { planes, count, population } = member
  if (planes === 0 || !population.isLiquid()) return null
  const pressed = block(count * 4)
  return { member, pressed, count: machine.call('selectPressed', { count, planes, out: pressed }) }
}

export function forEachLiquid(
  { members }: SolverBodies,
  does: (of: ConstrainedPopulation, name: 'pressure' | 'compression', first: number, count: number) => void,
): void {
  for (const { population, first, count } of members) {
    if (!population.columns.at.pressure) continue
    for (const name of ['pressure', 'compression'] as const) does(population, name, first, count)
  }
}
