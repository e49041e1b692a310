/** Stages 4 to 8: what influences do to particles in a substep. */
import type { Machine } from '@tangle/kernels'
import { INFLUENCES } from '../influences/index.ts'
import type { InfluenceKind, Substep } from '../influences/kind.ts'
import type { Masks } from '../masks/evaluate.ts'
import { seedFrom } from '../math/random.ts'
import { valueAt, valuesAt } from '../shot/keys.ts'
import { applyResponse } from '../shot/responses.ts'
import type { Influence, Population } from '../shot/types.ts'
import type { Body } from './bodies.ts'
import type { PopulationRun } from './runs.ts'
import { compact, floats } from './columns.ts'

export interface ActedRun extends PopulationRun {
  source: Population
  /** Heap blocks of the influences, by id of the influence. */
  scratch: Map<string, number>
  /** An f64 per phase. */
  weights: number
}

export interface Moment {
  machine: Machine
  bodies: Map<string, Body>
  masks: Masks
  /** Frames at both ends of the substep. */
  from: number
  to: number
  /** First frame and frames per second of the shot. */
  first: number
  rate: number
  /** Seconds. */
  h: number
}

type Hook = 'act' | 'hold' | 'change'

/** Calls one hook of every influence that does something now, in their order. */
export function runInfluences(run: ActedRun, moment: Moment, hook: Hook): void {
  const { columns, source } = run
  const { machine, from, to } = moment
  const { heap } = machine
  if (columns.count === 0) return
  const middle = (from + to) / 2
  for (const influence of source.influences) {
    const kind = INFLUENCES.find((k) => k.kind === influence.kind)!
    if (!kind[hook] || !writeWeights(machine, run, influence, middle)) continue
    const owned: number[] = []
    const block = (): number => {
      const pointer = heap.allocate(columns.count * 4)
      owned.push(pointer)
      return pointer
    }
    const amount = block()
    machine.run('weigh', columns.count, columns.at.phase, run.weights, amount)
    const substep: Substep & { rate: number } = {
      ...moment,
      columns,
      time: (middle - moment.first) / moment.rate,
      ahead: hook === 'act' ? moment.h / 2 : 0,
      seed: seedFrom(run.seed, influence.id),
      amount,
      factors(parameter) {
        if (!influence.responses?.some((one) => one.to === parameter)) return 0
        const pointer = block()
        machine.run('fill', columns.count, pointer, 1)
        respond(influence, parameter, substep, pointer)
        return pointer
      },
      scratch(bytes) {
        const pointer = run.scratch.get(influence.id) ?? heap.allocate(bytes)
        run.scratch.set(influence.id, pointer)
        return pointer
      },
    }
    respond(influence, 'strength', substep, amount)
    ;(kind as Required<InfluenceKind>)[hook](valuesAt(kind.parameters, influence, middle), substep)
    for (const pointer of owned) heap.free(pointer)
  }
}

function respond(
  influence: Influence,
  parameter: string,
  substep: Substep & { rate: number },
  pointer: number,
): void {
  for (const response of influence.responses ?? []) {
    if (response.to === parameter) applyResponse(response, substep, pointer)
  }
}

/** Writes weight × strength per phase; false when the influence does nothing now. */
function writeWeights(machine: Machine, run: ActedRun, influence: Influence, frame: number): boolean {
  if (influence.muted) return false
  const strength = valueAt(influence.strength, frame)
  const weights = machine.heap.f64(run.weights, run.phases.length)
  run.phases.forEach((phase, i) => (weights[i] = (influence.weights[phase] ?? 0) * strength))
  return weights.some((w) => w !== 0)
}

/** Stage 4: every influence adds to acceleration and damping. */
export function gatherInfluences(run: ActedRun, moment: Moment): void {
  const { columns } = run
  moment.machine.run('fill', columns.count * 3, columns.at.acceleration, 0)
  moment.machine.run('fill', columns.count, columns.at.damping, 0)
  runInfluences(run, moment, 'act')
}

/** Stages 5, 7 and 8: positions, velocities, ages and distances, solved together exactly. */
export function integrate({ columns, rules }: ActedRun, { machine, h }: Moment): void {
  const { position, previous, velocity, acceleration, damping, age, phaseAge, travelled } = columns.at
  machine.run(
    'integrate',
    columns.count,
    position,
    previous,
    velocity,
    acceleration,
    damping,
    age,
    phaseAge,
    travelled,
    h,
    rules.speedLimit,
  )
}

/** Stage 8: a particle whose age reaches its lifespan (to the nearest substep), or of size 0, is gone. */
export function bury(run: ActedRun, h: number): void {
  const shrinks = run.columns.at.birthRadius !== 0
  if (run.rules.lifespan === null && !shrinks) return
  const age = floats(run.columns, 'age')
  const lifespan = floats(run.columns, 'lifespan')
  const radius = floats(run.columns, 'radius')
  // below a millionth of a metre nothing can be seen
  run.died += compact(run.columns, (i) => age[i]! + h / 2 >= lifespan[i]! || (shrinks && radius[i]! < 1e-6))
}
