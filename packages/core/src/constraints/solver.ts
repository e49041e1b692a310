/**
 * The rounds in which constraints are solved: extended position based dynamics, one after the other (Gauss–Seidel), in a
 * fixed order. Sources: Macklin, Müller, Chentanez, "XPBD" (2016); Macklin et al., "Small steps in physics simulation"
 * (2019); Müller et al., "Detailed rigid body simulation with extended position based dynamics" (2020).
 */
import type {
  ConstrainedPopulation,
  Constraint,
  ConstraintKind,
  ConstraintMoment,
  Memory,
  SolverBodies,
} from './constraint.ts'
import { gatherBodies, typicalGain } from './solverBodies.ts'

export function solveConstraints(
  kinds: ConstraintKind[],
  populations: ConstrainedPopulation[],
  memory: Memory,
  moment: ConstraintMoment,
): void {
  const coupled = populations.filter((one) => one.columns.count > 0 && one.coupled())
  if (coupled.length === 0) return
  const bodies = gatherBodies(coupled, moment)
  const constraints = kinds.flatMap((kind) => kind.prepare(bodies, memory, moment) ?? [])
  predictResting(bodies, moment)
  for (const one of constraints) one.warmStart?.()
  for (let round = 0; round < moment.iterations; round++) for (const one of constraints) one.project?.(round)
  solveVelocities(bodies, constraints, moment)
  for (let round = 0; round < moment.iterations; round++)
    for (const one of constraints) one.depenetrate?.(round)
  const reversed = constraints.toReversed()
  for (const one of reversed) one.finish?.()
  scatterBodies(bodies, moment)
  for (const one of reversed) one.apply?.()
  bodies.free()
}

/** Where what lies on something would come to rest; from there the rounds begin. */
function predictResting(bodies: SolverBodies, { machine, h }: ConstraintMoment): void {
  const { at, marks } = bodies
  for (const { population, first, count, planes, start } of bodies.members) {
    const { startVelocity } = population.columns.at
    machine.run('predictResting', count, { bodies: at, first, marks, planes, startVelocity, h })
    machine.run('storePlaces', count, { bodies: at, first, kept: start })
  }
}

/** What the rounds moved gives velocity; then bounce and friction. */
function solveVelocities(
  bodies: SolverBodies,
  constraints: Constraint[],
  { machine, h }: ConstraintMoment,
): void {
  for (const { first, count, start } of bodies.members)
    machine.run('velocityFromRounds', count, { bodies: bodies.at, first, kept: start, h })
  // what approaches slower than two substeps of gravity, or of whatever acts, gave it lies there and does not bounce
  const restSpeed = 2 * typicalGain(bodies)
  for (const one of constraints) one.solveVelocities?.(restSpeed)
}

function scatterBodies(bodies: SolverBodies, { machine }: ConstraintMoment): void {
  for (const { population, first, count, free } of bodies.members) {
    const { position, velocity, travelled } = population.columns.at
    machine.run('scatterBodies', count, { bodies: bodies.at, first, position, velocity, free, travelled })
  }
}
