/**
 * Solver bodies: the particles of all populations that hold one another, side by side, as constraints move them.
 * The record is `body` in kernels/assembly/layouts.ts.
 */
import { layouts, type Machine } from '@tangle/kernels'
import type { ConstrainedPopulation, ConstraintMoment, Member, SolverBodies } from './constraint.ts'
import { floats } from '../state/columns.ts'

const { body, contactPlane } = layouts

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
    return { population, first, count, free, start: block(count * 24), planes: 0 }
  })
  const zeros = (): number => {
    const pointer = block(total * 4)
    heap.u32(pointer, total).fill(0)
    return pointer
  }
  const bodies: SolverBodies = {
    at: block(total * body.SIZE * layouts.F64),
    count: total,
    members,
    block,
    marks: zeros(),
    touches: zeros(),
    partners: { first: 0, list: 0 },
    contacts: { at: 0, count: 0 },
    wakeSpeed: Infinity,
  }
  for (const member of members) gatherMember(machine, bodies, member)
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
  const columns = { position, startPosition, velocity, inverseMass, radius, pinned }
  machine.run('gatherBodies', count, { ...columns, bodies: bodies.at, first })
}

/** Bytes of the contact manifolds of so many particles. */
export const manifoldBytes = (count: number): number =>
  count * contactPlane.COUNT * contactPlane.SIZE * layouts.F64

/** As many particles tell what a substep gives in velocity. */
const SAMPLE = 256

/** Median of the speed that influences gave bodies in this substep, m/s, of some that stand for all. */
export function typicalGain({ members }: SolverBodies): number {
  const gains: number[] = []
  for (const { population } of members) {
    const { columns } = population
    if (!columns.at.startVelocity) continue
    const [velocity, startVelocity] = [floats(columns, 'velocity'), floats(columns, 'startVelocity')]
    const stride = 3 * Math.max(1, Math.ceil(columns.count / SAMPLE))
    for (let k = 0; k < velocity.length; k += stride) {
      const gained = [0, 1, 2].map((axis) => velocity[k + axis]! - startVelocity[k + axis]!)
      gains.push(Math.sqrt(gained[0]! ** 2 + gained[1]! ** 2 + gained[2]! ** 2))
    }
  }
  return gains.sort((a, b) => a - b)[gains.length >> 1] ?? 0
}
