/** Evaluates influences: what each of them does now, how much of it each particle gets, and what they share. */
import { LIQUID } from '../constraints/fluid.ts'
import type { Feed } from '../constraints/constraint.ts'
import type { ConstraintKind, ConstrainedPopulation } from '../constraints/constraint.ts'
import { influenceKind, RESPONSES } from '../registry.ts'
import { birthKind } from '../registry.ts'
import type { InfluenceKind, Substep } from '../influences/influence.ts'
import { seedFrom } from '../math/random.ts'
import { valueAt, valuesAt } from '../document/keys.ts'
import type { Influence, Population } from '../document/types.ts'
import { applyResponse } from '../responses/apply.ts'
import type { ResponseContext } from '../responses/response.ts'
import { couples } from '../schema/coupling.ts'
import { buildGrid, crowdOf, widestRadius, type Grid } from '../state/neighbours.ts'
import { bodyShapeOf, isRigid } from './bodyShapes.ts'
import { ridesIn } from './riding.ts'
import { targetsOf, type Targets } from './targets.ts'
import type { Moment, PopulationState } from './world.ts'

export type Hook = 'applyForces' | 'projectPositions' | 'updateAttributes'

/** An influence that does something now, with its values and amounts, until it is freed. */
export interface ActiveInfluence {
  influence: Influence
  kind: InfluenceKind
  values: Parameters<Required<InfluenceKind>['applyForces']>[0]
  substep: Substep
  free(): void
}

/** Calls one hook of every influence, or of those that `which` names, that does something now, in their order. */
export function runInfluences(
  population: PopulationState,
  moment: Moment,
  hook: Hook,
  which: (kind: InfluenceKind, influence: Influence) => boolean = () => true,
): void {
  let cache: StepCache | null = null
  for (const influence of population.source.influences) {
    const kind = influenceKind(influence.kind)
    const does = kind[hook] ?? (hook === 'applyForces' && kind.evenForce ? addEvenForce(kind) : undefined)
    if (influence.muted || !does || !which(kind, influence)) continue
    cache ??= stepCache(population, moment, hook)
    const active = evaluate(population, moment, influence, kind, cache)
    if (!active) continue
    does(active.values, active.substep)
    active.free()
    // whoever corrects positions moves particles: the next one looks anew
    if (hook === 'projectPositions') cache.free()
  }
  cache?.free()
}

/**
 * Forces of a substep, or those of them that `which` names. What is even begins them: its sum, a row for each phase, is written rather
 * than added. Then come those that ask each particle.
 */
export function applyForces(
  population: PopulationState,
  moment: Moment,
  which: (influence: Influence) => boolean = () => true,
): void {
  const { columns, source } = population
  const { heap } = moment.machine
  const middle = (moment.from + moment.to) / 2
  const sums = source.phases.map(() => [0, 0, 0, 0])
  const summed = new Set<Influence>()
  for (const influence of source.influences) {
    const { evenForce, parameters } = influenceKind(influence.kind)
    if (influence.muted || !evenForce || influence.responses?.length || !which(influence)) continue
    const force = evenForce(valuesAt(parameters, influence, middle))
    if (!force) continue
    summed.add(influence)
    const strength = valueAt(influence.strength, middle)
    source.phases.forEach((phase, i) => {
      const weight = strength * (influence.weights[phase] ?? 0)
      ;[...force.acceleration, force.damping].forEach((part, k) => (sums[i]![k]! += weight * part))
    })
  }
  const even = heap.allocate(sums.length * 16)
  heap.f32(even, sums.length * 4).set(sums.flat())
  const { phase, acceleration, damping, stiffness } = columns.at
  moment.machine.run('startForces', columns.count, {
    phase,
    phases: sums.length,
    even,
    acceleration,
    damping,
    stiffness,
  })
  heap.free(even)
  runInfluences(population, moment, 'applyForces', (_, one) => !summed.has(one) && which(one))
}

/** The hook of kinds whose force is even, for those that responses draw all the same. */
const addEvenForce =
  ({ evenForce }: InfluenceKind): Required<InfluenceKind>['applyForces'] =>
  (values, { machine, columns, amount }) => {
    const force = evenForce!(values) // the caller has seen that it is there
    if (!force) return
    const [ax, ay, az] = force.acceleration
    const { acceleration, damping } = columns.at
    machine.run('addEvenForce', columns.count, {
      amount,
      acceleration,
      damping,
      ax,
      ay,
      az,
      c: force.damping,
    })
  }

/** The influences that `does` names and that do something now; whoever takes them frees each. */
export function activeInfluences(
  population: PopulationState,
  moment: Moment,
  does: (kind: InfluenceKind) => unknown,
): ActiveInfluence[] {
  return population.source.influences.flatMap((influence) => {
    const kind = influenceKind(influence.kind)
    if (!does(kind)) return []
    const cache = stepCache(population, moment, 'projectPositions')
    const active = evaluate(population, moment, influence, kind, cache)
    if (!active) {
      cache.free()
      return []
    }
    const { free } = active
    return [{ ...active, free: () => (free(), cache.free()) }]
  })
}

/** A population as constraints see it. */
export function constrained(population: PopulationState, moment: Moment): ConstrainedPopulation {
  const { source, columns, nextId, events } = population
  return {
    id: source.id,
    columns,
    nextId,
    events,
    gridSpacing: () => gridSpacingOf(population, moment.from),
    coupled: () => isCoupled(population, moment.populations),
    isRigid: () => isRigid(source),
    isLiquid: () => population.isLiquid,
    bodyShape: (i) => bodyShapeOf(population, moment, i),
    pins: () =>
      activeInfluences(population, moment, (kind) => kind.pins).map((active) => feedOf(active, null)),
    feeds: <Rule>(of: ConstraintKind<Rule>) =>
      activeInfluences(population, moment, (kind) => kind.constraint?.name === of.name).flatMap((active) => {
        const rule = active.kind.rule!(active.values, active.substep) as Rule | null
        if (rule) return [feedOf(active, rule)]
        active.free()
        return []
      }),
  }
}

function feedOf<Rule>({ influence, substep, free }: ActiveInfluence, rule: Rule): Feed<Rule> {
  const { amount, seed, factors } = substep
  return { influence: influence.id, rule, amount, seed, factors, free }
}

function gridSpacingOf({ source }: PopulationState, frame: number): number | undefined {
  for (const birth of source.births) {
    const kind = birthKind(birth.kind)
    const spacing = kind.gridSpacing?.(valuesAt(kind.parameters, birth, frame))
    if (spacing !== undefined) return spacing
  }
  return undefined
}

/** Whether particles of a population are a liquid at some time. */
export const isLiquid = ({ influences }: Population): boolean =>
  influences.some(({ kind, muted }) => !muted && influenceKind(kind).constraint?.name === LIQUID.name)

/** Whether it is among the solver bodies: by a rule of its own, or because one of another population names it. */
function isCoupled({ source }: PopulationState, all: PopulationState[]): boolean {
  return (
    source.influences.some(couples) ||
    all.some((other) => other.source.influences.some((one) => couples(one) && one.with === source.id))
  )
}

/** What an influence does now: null where that is nothing. */
function evaluate(
  population: PopulationState,
  moment: Moment,
  influence: Influence,
  kind: InfluenceKind,
  cache: StepCache,
): ActiveInfluence | null {
  const { columns } = population
  const { machine, from, to } = moment
  const { heap } = machine
  const middle = (from + to) / 2
  const at = kind.readsAtEnd ? to : middle
  if (columns.count === 0 || !writeWeights(population, moment, influence, kind, at)) return null
  const owned: number[] = []
  const block = (): number => {
    const pointer = heap.allocate(columns.count * 4)
    owned.push(pointer)
    return pointer
  }
  const amount = block()
  machine.run('weigh', columns.count, { phase: columns.at.phase, weights: population.weights, amount })
  const substep: Substep & ResponseContext = {
    ...cache.shared,
    written: influence,
    seed: seedFrom(population.seed, influence.id),
    amount,
    factors(parameter) {
      if (!influence.responses?.some((one) => one.to === parameter)) return 0
      const pointer = block()
      machine.run('fill', columns.count, { column: pointer, value: 1 })
      respond(influence, parameter, substep, pointer)
      return pointer
    },
    scratch(bytes) {
      const pointer = population.scratch.get(influence.id) ?? heap.allocate(bytes)
      population.scratch.set(influence.id, pointer)
      return pointer
    },
  }
  respond(influence, 'strength', substep, amount)
  const values = valuesAt(kind.parameters, influence, middle) as ActiveInfluence['values']
  return { influence, kind, values, substep, free: () => owned.forEach((pointer) => heap.free(pointer)) }
}

/** What all influences of a hook share in a substep. */
type Shared = Omit<Substep & ResponseContext, 'written' | 'seed' | 'amount' | 'factors' | 'scratch'>

/** With grids and targets that several of them read, made once; `free` gives those back. */
interface StepCache {
  shared: Shared
  free(): void
}

function stepCache(population: PopulationState, moment: Moment, hook: Hook): StepCache {
  const { populations, bodies, covers, posed } = moment
  // who is a body itself meets other pieces as bodies; before they are born their mesh stands there
  const piecesOf = (mesh: string) => {
    const pieces = isRigid(population.source) ? undefined : posed.get(mesh)
    return pieces?.isHere() ? pieces.body : undefined
  }
  const grids = new Map<string, Grid>()
  const targets = new Map<string | undefined, Targets>()
  const shared: Shared = {
    ...moment,
    columns: population.columns,
    solid: (mesh) => covers.get(mesh)?.body ?? piecesOf(mesh) ?? bodies.get(mesh),
    time: ((moment.from + moment.to) / 2 - moment.first) / moment.rate,
    ahead: hook === 'applyForces' ? moment.h / 2 : 0,
    rides: ridesIn(population.source),
    others: populations.map(({ source }) => source.id),
    neighbours(reach, most, of) {
      const other = of === undefined ? population : populations.find(({ source }) => source.id === of)
      if (!other || other.columns.count === 0) return null
      const key = `${reach} ${most} ${of ?? ''}`
      const grid = grids.get(key) ?? buildGrid(moment.machine, crowdOf(other.columns), reach, most)
      grids.set(key, grid)
      return { cells: grid.at, own: other === population ? 1 : 0 }
    },
    widestOf(of) {
      const other = populations.find(({ source }) => source.id === of)
      return other ? widestRadius(other.columns) : 0
    },
    targets(goal) {
      const part = hook === 'applyForces' ? 0.5 : 1
      const found = targets.get(goal) ?? targetsOf(moment, population, goal, moment, part)
      targets.set(goal, found)
      return found
    },
  }
  return {
    shared,
    free() {
      for (const one of [...grids.values(), ...targets.values()]) one.free()
      grids.clear()
      targets.clear()
    },
  }
}

function respond(influence: Influence, parameter: string, context: ResponseContext, pointer: number): void {
  for (const response of influence.responses ?? []) {
    if (response.to === parameter) applyResponse(RESPONSES, response, context, pointer)
  }
}

/**
 * Writes weight × strength per phase; false when the influence does nothing now. Where 0 says something too, −1
 * stands for phases in which it does not act.
 */
function writeWeights(
  { source, weights: pointer }: PopulationState,
  { machine }: Moment,
  influence: Influence,
  { actsAtZero }: InfluenceKind,
  frame: number,
): boolean {
  if (influence.muted) return false
  const strength = valueAt(influence.strength, frame)
  const weights = machine.heap.f32(pointer, source.phases.length)
  source.phases.forEach((phase, i) => {
    const weight = influence.weights[phase] ?? 0
    weights[i] = weight === 0 && actsAtZero ? -1 : weight * strength
  })
  return weights.some((w) => (actsAtZero ? w >= 0 : w !== 0))
}
