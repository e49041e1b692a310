/**
 * The rounds in which constraints are solved: extended position based dynamics, one after the other (Gauss–Seidel) in an
 * order that follows from places alone; those without a common body side by side, in lanes and on all threads. Sources:
 * Macklin, Müller, Chentanez, "XPBD" (2016); Macklin et al., "Small steps in physics simulation" (2019); Müller et al.,
 * "Detailed rigid body simulation with extended position based dynamics" (2020).
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
  const kept = predictResting(bodies, moment)
  for (const one of constraints) one.warmStart?.()
  const sweeps = Math.max(0, ...constraints.map((one) => one.sweeps ?? 1))
  for (let round = 0; round < moment.iterations; round++)
    for (let sweep = 0; sweep < sweeps; sweep++) projectAll(constraints, round, sweep)
  solveVelocities(bodies, kept, constraints, moment)
  for (let round = 0; round < moment.iterations; round++)
    for (const one of constraints) one.depenetrate?.(round)
  const reversed = constraints.toReversed()
  for (const one of reversed) one.finish?.()
  scatterBodies(bodies, moment)
  for (const one of reversed) one.apply?.()
  bodies.free()
}

function projectAll(constraints: Constraint[], round: number, sweep: number): void {
  for (const { project, sweeps = 1 } of constraints) if (sweep < sweeps) project?.(round * sweeps + sweep)
}

/** Where what lies on something would come to rest: from there, of which it gives a copy, the rounds begin. */
function predictResting(
  { members, marks, moved, speeds, count: total, block }: SolverBodies,
  { machine, h }: ConstraintMoment,
): number {
  for (const { population, first, count } of members) {
    const { startVelocity } = population.columns.at
    if (startVelocity) machine.run('predictResting', count, { first, marks, startVelocity, h, moved, speeds })
  }
  const kept = block(total * 16)
  machine.run('copyRows', total, { from: moved, to: kept })
  return kept
}

/** What the rounds moved gives velocity; then bounce and friction. */
function solveVelocities(
  bodies: SolverBodies,
  kept: number,
  constraints: Constraint[],
  { machine, h }: ConstraintMoment,
): void {
  const { count, moved, speeds } = bodies
  machine.run('velocityFromRounds', count, { moved, kept, h, speeds })
  // what approaches slower than two substeps of gravity, or of whatever acts, gave it lies there and does not bounce
  const restSpeed = 2 * typicalGain(bodies)
  for (const one of constraints) one.solveVelocities?.(restSpeed)
}

function scatterBodies(
  { members, starts, moved, speeds }: SolverBodies,
  { machine }: ConstraintMoment,
): void {
  for (const { population, first, count, free } of members) {
    const { position, velocity, travelled } = population.columns.at
    machine.run('scatterBodies', count, { first, starts, moved, speeds, position, velocity, free, travelled })
  }
}
