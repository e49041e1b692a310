/** Viscosity and swirl of liquids. The kernels are assembly/fluidMotion.ts and fluidSwirl.ts, which say from where. */
import { layouts, type Machine } from '@tangle/kernels'

const { F32, F64 } = layouts

/** The tables of the kernels that a liquid is in, and its own numbers (f32 per entry). */
export interface FluidTables {
  count: number
  places: number
  bodies: number
  moved: number
  inverse: number
  counts: number
  slots: number
  gradients: number
  slopes: number
  wallOf: number
  walls: number
  speeds: number
  /** Pa·s */
  viscosities: number
  /** The same on walls. */
  clings: number
  /** Strengths of vorticity confinement. */
  swirls: number
}

/** Of the speed that is left, as a share of all, an error that counts for nothing; and most steps to get there. */
const ENOUGH = 1e-4
const MOST_STEPS = 60
/** As in the kernels. */
const PART = 1024

/** Velocities after viscosity, solved by conjugate gradients, and swirl. */
export function moveFluid(
  fluid: FluidTables,
  block: (bytes: number) => number,
  h: number,
  machine: Machine,
): void {
  const { heap } = machine
  const { count, bodies, speeds, inverse } = fluid
  const rows = (): number => {
    const pointer = block((count + 1) * 16)
    heap.u32(pointer, (count + 1) * 4).fill(0)
    return pointer
  }
  const swirls = some(heap.f32(fluid.swirls, count))
  if (!swirls && !some(heap.f32(fluid.viscosities, count))) return
  const v = rows()
  machine.run('gatherSpeeds', count, { bodies, speeds, inverse, rows: v })
  solveViscosity(fluid, v, rows, block, h, machine)
  if (swirls) swirl(fluid, v, rows(), h, machine)
  machine.run('scatterSpeeds', count, { bodies, rows: v, inverse, speeds })
}
/** Gives eddies back what they lost; `curls` are rows of zeros. */
function swirl(fluid: FluidTables, v: number, curls: number, h: number, machine: Machine): void {
  const { count, places, counts, slots, slopes, swirls } = fluid
  const near = { counts, slots, slopes, curls }
  machine.run('curlFluid', count, { ...near, rows: v })
  machine.run('swirlFluid', count, { ...near, places, strengths: swirls, h, rows: v })
}
const some = (values: Float32Array): boolean => values.some((one) => one > 0)

/** Conjugate gradients with the diagonal as conditioning (Shewchuk 1994, B3). `v` begins as what velocities are without it. */
function solveViscosity(
  {
    count,
    places,
    bodies,
    moved,
    inverse,
    counts,
    slots,
    gradients,
    wallOf,
    walls,
    viscosities,
    clings,
  }: FluidTables,
  v: number,
  rows: () => number,
  block: (bytes: number) => number,
  h: number,
  machine: Machine,
): void {
  const [r, d, q, s, none] = [rows(), rows(), rows(), rows(), rows()]
  const weights = block(count * F32)
  const common = { places, bodies, moved, inverse, wallOf, walls, clings, h }
  const apply = (of: number, out: number, diagonal = 0): void =>
    machine.run('applyViscosity', count, {
      ...common,
      counts,
      slots,
      gradients,
      viscosities,
      rows: of,
      out,
      weights: diagonal,
    })
  const mix = (a: number, b: number, factor: number, to: number, by = 0): void =>
    machine.run('mixRows', count, { a, b, factor, weights: by, to })
  const sum = summing(count, block, machine)
  machine.run('startViscosity', count, { ...common, rows: v, out: s })
  apply(v, q, weights)
  const enough = ENOUGH ** 2 * sum(s, s, weights)
  mix(s, q, -1, r)
  mix(none, r, 1, d, weights)
  let left = sum(r, r, weights)
  for (let step = 0; step < MOST_STEPS && left > enough; step++) {
    apply(d, q)
    const along = sum(d, q)
    if (!(along > 0)) break
    mix(v, d, left / along, v)
    mix(r, q, -left / along, r)
    const next = sum(r, r, weights)
    mix(none, r, 1, s, weights)
    mix(s, d, next / left, d)
    left = next
  }
}

/** Σ weight·a·b over rows, the same on any number of threads. */
function summing(count: number, block: (bytes: number) => number, machine: Machine) {
  const parts = Math.ceil(count / PART)
  const out = block(parts * F64)
  return (a: number, b: number, weights = 0): number => {
    machine.run('sumRows', parts, { count, a, b, weights, out })
    return machine.heap.f64(out, parts).reduce((all, one) => all + one, 0)
  }
}
