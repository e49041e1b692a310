/**
 * Solver bodies: the particles of all populations that hold one another, side by side, as constraints move them.
 * They are rows, `bodyRow` in kernels/assembly/layouts.ts.
 */
import { layouts, type Machine } from '@tangle/kernels'
import type { ConstrainedPopulation, ConstraintMoment, Member, SolverBodies } from './constraint.ts'
import { floats } from '../state/columns.ts'

const { bodyRow } = layouts
const ROW = bodyRow.SIZE * layouts.F32

/** Planes are looked for within this share of the radius beyond contact. */
const PLANE_MARGIN = 0.6
/** A liquid sees walls as far as its kernel reaches: four radii from its middle. */
const LIQUID_MARGIN = 3

/** Lays out the bodies of populations, which have particles. `free` gives every block back. */
export function gatherBodies(
  populations: ConstrainedPopulation[],
  { machine }: ConstraintMoment,
): SolverBodies & { free(): void } {
  const { heap } = machine
  const owned: number[] = []
  const block = (bytes: number): number => {
    const pointer = heap.allocate(Math.max(8, bytes))
    owned.push(pointer)
    return pointer
  }
  let total = 0
  const members = populations.map((population): Member => {
    const { count, at } = population.columns
    const free = block(count * 12)
    heap.f32(free, count * 3).set(heap.f32(at.position, count * 3))
    const first = total
    total += count
    return {
      population,
      first,
      count,
      free,
      planes: 0,
      offsets: 0,
      margin: population.isLiquid() ? LIQUID_MARGIN : PLANE_MARGIN,
    }
  })
  const zeros = (): number => {
    const pointer = block(total * 4)
    heap.u32(pointer, total).fill(0)
    return pointer
  }
  const rows = (): number => block((total + 1) * ROW)
  const bodies: SolverBodies = {
    count: total,
    members,
    starts: rows(),
    moved: rows(),
    speeds: rows(),
    awakeMass: block(total * 4),
    sleeps: block(total * 4),
    block,
    marks: zeros(),
    touches: zeros(),
    partners: { of: '', list: () => ({ first: 0, list: 0 }) },
    contacts: { steps: 0, batches: 0 },
    wakeSpeed: Infinity,
  }
  for (const member of members) gatherMember(machine, bodies, member)
  // behind the last stands nobody
  for (const table of [bodies.starts, bodies.moved, bodies.speeds]) heap.f32(table + total * ROW, 4).fill(0)
  return { ...bodies, free: () => owned.forEach((pointer) => heap.free(pointer)) }
}

function gatherMember(machine: Machine, bodies: SolverBodies, { population, first, count }: Member): void {
  const { heap } = machine
  const { position, startPosition, velocity, inverseMass, radius } = population.columns.at
  const pins = population.pins()
  let pinned = 0
  if (pins.length > 0) {
    pinned = bodies.block(count * 4)
    const most = heap.f32(pinned, count).fill(0)
    for (const { amount, free } of pins) {
      const amounts = heap.f32(amount, count)
      for (let i = 0; i < count; i++) most[i] = Math.max(most[i]!, amounts[i]!)
      free()
    }
  }
  const { starts, moved, speeds, awakeMass, sleeps } = bodies
  const columns = { position, startPosition, velocity, inverseMass, radius, pinned }
  machine.run('gatherBodies', count, { ...columns, first, starts, moved, speeds, awakeMass, sleeps })
}

/** Where a body is now. */
export function placeOfBody(
  { starts, moved }: SolverBodies,
  { heap }: Machine,
  body: number,
): [number, number, number] {
  const [from, by] = [starts, moved].map((table) => heap.f32(table + body * ROW, 3)) as [
    Float32Array,
    Float32Array,
  ]
  return [from[0]! + by[0]!, from[1]! + by[1]!, from[2]! + by[2]!]
}

/** As many particles of each population tell what a substep gives in velocity. */
const SAMPLE = 128

/** Median of the speed that influences gave bodies in this substep, m/s, of some that stand for all. */
export function typicalGain({ members }: SolverBodies): number {
  const gains: number[] = []
  for (const { population } of members) {
    const { columns } = population
    if (!columns.at.startVelocity) continue
    const [now, before] = [floats(columns, 'velocity'), floats(columns, 'startVelocity')]
    const stride = 3 * Math.max(1, Math.ceil(columns.count / SAMPLE))
    for (let k = 0; k < now.length; k += stride) {
      const [x, y, z] = [now[k]! - before[k]!, now[k + 1]! - before[k + 1]!, now[k + 2]! - before[k + 2]!]
      gains.push(Math.sqrt(x * x + y * y + z * z))
    }
  }
  return Float64Array.from(gains).sort()[gains.length >> 1] ?? 0
}
