/** A substep of free motion, as leapfrog has it: half a step on, forces there, and the rest. */
import type { Columns } from '../state/columns.ts'
import type { Moment, PopulationState } from './world.ts'

export function drift({ columns }: { columns: Columns }, { machine, h }: Moment): void {
  const { position, startPosition, velocity, startVelocity, age } = columns.at
  machine.run('drift', columns.count, { position, startPosition, velocity, startVelocity, age, h })
}

export function integrate(
  { columns, source }: Pick<PopulationState, 'columns' | 'source'>,
  { machine, h }: Moment,
): void {
  const { position, startPosition, velocity, acceleration, damping, stiffness } = columns.at
  const { age, phaseAge, travelled } = columns.at
  const { speedLimit } = source.particle
  machine.run('integrate', columns.count, {
    position, startPosition, velocity, acceleration, damping, stiffness, age, phaseAge, travelled, h, speedLimit,
  }) // prettier-ignore
}
