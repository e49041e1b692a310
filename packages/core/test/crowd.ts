/** Columns of particles without a simulation, for kernels that look at crowds. */
import { createMachine } from '@tangle/kernels'
import { random } from '../src/math/random.ts'
import { createColumns, floats, reserve, words, type Columns } from '../src/state/columns.ts'
import type { BuiltInName } from '../src/state/attributes.ts'

export const machine = createMachine()

/** Columns of particles at places, with velocities and radii. */
export function particles(
  position: number[],
  velocity: number[] = [],
  radius: number[] | number = 0.1,
): Columns {
  const names: BuiltInName[] = ['id', 'position', 'startPosition', 'velocity', 'radius', 'acceleration', 'damping', 'stiffness'] // prettier-ignore
  const columns = createColumns(machine.heap, names)
  const count = position.length / 3
  reserve(columns, count)
  columns.count = count
  for (const name of names.slice(1)) floats(columns, name).fill(0)
  words(columns, 'id').set([...Array(count).keys()])
  floats(columns, 'position').set(position)
  floats(columns, 'startPosition').set(position)
  floats(columns, 'velocity').set(velocity)
  if (typeof radius === 'number') floats(columns, 'radius').fill(radius)
  else floats(columns, 'radius').set(radius)
  return columns
}
export const scattered = (count: number, side: number, seed = 1): number[] =>
  Array.from({ length: count * 3 }, (_, k) => random(seed, k, 1) * side - side / 2)
