/** Stages 4 to 8: what influences do to particles in a substep. */
import type { Machine } from '@tangle/kernels'
import { INFLUENCES } from '../influences/index.ts'
import type { InfluenceKind, Substep } from '../influences/influence.ts'
import { seedFrom } from '../math/random.ts'
import { valueAt, valuesAt } from '../document/keys.ts'
import { applyResponse } from '../responses/index.ts'
import type { Influence, Population } from '../document/types.ts'
import type { Cover } from './covers.ts'
import type { PopulationRun } from './populationState.ts'
import { compact, floats } from '../state/columns.ts'
import { placesOf, type GoalRun, type GoalWorld, type PlacePointers } from './targets.ts'
import { buildGrid, crowdOf, type Grid } from '../state/neighbours.ts'

export interface ActedRun extends PopulationRun, GoalRun {
  source: Population
  /** Heap blocks of the influences, by id of the influence. */
  scratch: Map<string, number>
  /** An f64 per phase. */
  weights: number
}

export interface Moment extends GoalWorld {
  /** Covers on meshes, by the id of the mesh. */
  covers: Map<string, Cover>
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

/** Calls one hook of every influence that does something now, in their order; of `pinning` ones only, or of the others. */
export function runInfluences(run: ActedRun, moment: Moment, hook: Hook, pinning?: boolean): void {
  const share = sharing(run, moment, hook)
  for (const influence of run.source.influences) {
    const kind = INFLUENCES.find((k) => k.kind === influence.kind)!
    if (!kind[hook] || (pinning !== undefined && pinning !== (kind.pins ?? false))) continue
    const asked = share.ask(influence, kind)
    if (!asked) continue
    ;(kind as Required<InfluenceKind>)[hook](asked.values, asked.substep)
    asked.free()
    // whoever holds particles moves them: the next one looks anew
    if (hook === 'hold') share.forget()
  }
  share.forget()
}

export interface Asked {
  influence: Influence
  kind: InfluenceKind
  values: Parameters<Required<InfluenceKind>['act']>[0]
  substep: Substep
  free(): void
}

/** The influences with a hook that do something now, with their values and amounts, until they are freed. */
export function askInfluences(
  run: ActedRun,
  moment: Moment,
  hook: 'collider' | 'touch' | 'link' | 'sleep' | 'pins' | 'cover',
): Asked[] {
  const share = sharing(run, moment, 'hold')
  return run.source.influences.flatMap((influence) => {
    const kind = INFLUENCES.find((k) => k.kind === influence.kind)!
    return kind[hook] ? (share.ask(influence, kind) ?? []) : []
  })
}

/** Asks influences of one stage, which share grids and places. */
function sharing(run: ActedRun, moment: Moment, hook: Hook) {
  const { columns } = run
  const { machine, from, to } = moment
  const { heap } = machine
  const middle = (from + to) / 2
  const shared = sharedOf(run, moment, hook)
  function ask(influence: Influence, kind: InfluenceKind): Asked | null {
    if (columns.count === 0 || !writeWeights(machine, run, influence, kind, middle)) return null
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
      ...shared,
      written: influence,
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
    const values = valuesAt(kind.parameters, influence, middle) as Asked['values']
    return { influence, kind, values, substep, free: () => owned.forEach((pointer) => heap.free(pointer)) }
  }
  return { ask, forget: () => shared.forget() }
}

/** Grids and places that several influences ask for, made once. */
function sharedOf(run: ActedRun, moment: Moment, hook: Hook) {
  const grids = new Map<string, Grid>()
  const places = new Map<string | undefined, PlacePointers>()
  return {
    neighbours(reach: number, most: number): number {
      const key = `${reach} ${most}`
      const grid = grids.get(key) ?? buildGrid(moment.machine, crowdOf(run.columns), reach, most)
      grids.set(key, grid)
      return grid.at
    },
    places(goal?: string): PlacePointers {
      const found = places.get(goal) ?? placesOf(moment, run, goal, moment, hook === 'act' ? 0.5 : 1)
      places.set(goal, found)
      return found
    },
    forget() {
      for (const one of [...grids.values(), ...places.values()]) one.free()
      grids.clear()
      places.clear()
    },
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

/**
 * Writes weight × strength per phase; false when the influence does nothing now. Where 0 says something too, −1
 * stands for phases in which it does not act.
 */
function writeWeights(
  machine: Machine,
  run: ActedRun,
  influence: Influence,
  { actsAtZero }: InfluenceKind,
  frame: number,
): boolean {
  if (influence.muted) return false
  const strength = valueAt(influence.strength, frame)
  const weights = machine.heap.f64(run.weights, run.phases.length)
  run.phases.forEach((phase, i) => {
    const weight = influence.weights[phase] ?? 0
    weights[i] = weight === 0 && actsAtZero ? -1 : weight * strength
  })
  return weights.some((w) => (actsAtZero ? w >= 0 : w !== 0))
}

/** Half the way of the substep: where forces are asked for. */
export function driftHalf({ columns }: ActedRun, { machine, h }: Moment): void {
  const { position, previous, velocity, before, age } = columns.at
  machine.run('drift', columns.count, position, previous, velocity, before, age, h)
}

/** Stage 4: every influence adds to acceleration, damping and stiffness. */
export function gatherInfluences(run: ActedRun, moment: Moment): void {
  const { count, at } = run.columns
  moment.machine.run('fill', count * 3, at.acceleration, 0)
  moment.machine.run('fill', count, at.damping, 0)
  if (at.stiffness) moment.machine.run('fill', count, at.stiffness, 0)
  runInfluences(run, moment, 'act')
}

/** Stages 5, 7 and 8: positions, velocities, ages and distances, solved together exactly. */
export function integrate({ columns, rules }: ActedRun, { machine, h }: Moment): void {
  const { position, previous, velocity, acceleration, damping, stiffness } = columns.at
  const { age, phaseAge, travelled } = columns.at
  machine.run(
    'integrate',
    columns.count,
    position,
    previous,
    velocity,
    acceleration,
    damping,
    stiffness,
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
