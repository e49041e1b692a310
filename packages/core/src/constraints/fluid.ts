/** Liquids: particles that keep their volume, of one population or of several that push one another. The kernels are assembly/fluid.ts. */
import { layouts, type Machine } from '@tangle/kernels'
import { floats } from '../state/columns.ts'
import type { ConstraintKind, SolverBodies } from './constraint.ts'
import { forEachLiquid, gatherFluid, type LiquidRule, type Stored } from './fluidTable.ts'
import { tellSplashes } from './fluidSplash.ts'
import { pullSurfaces } from './fluidTension.ts'
import { moveFluid } from './fluidVelocity.ts'

const { F32 } = layouts

/** Damping of a step of the multipliers. */
const DAMPING = 0.5
/** What is less than full by this closes up freely, what is fuller slowly. */
const SLACK = 0.05
/** Rounds in which what is too dense still is spread, with no velocity from it. */
const SPREADS = 2
/** Of what a wall fills as an even medium, what layers of particles in its place would fill of a particle in the layer next to it. */
const WALL_SCALE = 0.8

export const LIQUID: ConstraintKind<LiquidRule> = {
  name: 'liquid',
  does: 'liquids keep their volume, by pressure',
  couples: true,
  pace: 'liquid',
  prepare(bodies, _, moment) {
    const fluid = gatherFluid(LIQUID, bodies, moment)
    if (!fluid) {
      forEachLiquid(bodies, ({ columns }, name) => floats(columns, name).fill(0))
      return null
    }
    const { machine, h } = moment
    const { starts, moved, marks, block } = bodies
    const zeros = (words: number): number => {
      const pointer = block(words * F32)
      machine.heap.u32(pointer, words).fill(0)
      return pointer
    }
    const { count, table, low, walls, stored, dense, room } = fluid
    const [spread, ways] = [zeros(count + 4), zeros(count * 4 + 4)] as const
    const run = machine.run.bind(machine)
    const { places, inverse, counts, slots, gradients, slopes, own, pressure, change, wallOf } = table
    const which = { places, bodies: table.bodies, moved }
    const walled = { ...which, wallOf, wallScale: WALL_SCALE }
    const terms = { counts, slots, slopes, own }
    const [lowX, lowY, lowZ] = low
    run('warmFluid', count, { bodies: table.bodies, pressures: stored.was, h, pressure, marks })
    const place = (part = 1): void =>
      run('placeFluid', count, { ...which, starts, part, lowX, lowY, lowZ, inverse })
    const measure = (out: number, part = 1): void =>
      run('compressFluid', count, { ...walled, part, counts, slots, walls: walls.at, out })
    const push = (what: number): void =>
      run('pushFluid', count, { ...which, ...terms, inverse, change: what })
    const press = (excess: number, to: number): void => {
      run('pressFluid', count, { excess, own, damping: DAMPING, pressure: to, change })
      push(change)
    }
    return {
      warmStart() {
        walls.lay()
        place(0)
        measure(dense, 0)
        run('roomFluid', count, { ...walled, part: 0, walls: walls.at, back: h, slack: SLACK, dense, room })
        // the gradient half way makes the density that it tells exact for what turns
        place(0.5)
        run('weighFluid', count, { ...walled, ...terms, part: 0.5, inverse, walls: walls.at, gradients })
        pullSurfaces({ count, ...table, walls: walls.at, moved }, block, h, machine)
        push(pressure)
      },
      project() {
        run('gatherMoved', count, { bodies: table.bodies, moved, rows: ways })
        run('flowFluid', count, { ...terms, ways, room, out: dense })
        press(dense, pressure)
      },
      solveVelocities() {
        place()
        moveFluid({ count, ...table, walls: walls.at, moved, speeds: bodies.speeds }, block, h, machine)
      },
      depenetrate(round) {
        if (round >= SPREADS) return
        place()
        measure(dense)
        press(dense, spread)
      },
      finish() {
        place()
        measure(dense)
        run('keepFluid', count, { bodies: table.bodies, pressure, dense, h, pressures: stored.pressure, compressions: stored.compression }) // prettier-ignore
        tellSplashes(LIQUID, fluid, bodies, moment)
      },
      apply() {
        storeFluid(bodies, stored, machine)
      },
    }
  },
}

const storeFluid = (bodies: SolverBodies, stored: Stored, { heap }: Machine): void =>
  forEachLiquid(bodies, ({ columns }, name, first, count) =>
    floats(columns, name).set(heap.f32(stored[name] + first * 4, count)),
  )
