import {
  completeCue,
  completeGoal,
  completeInfluence,
  CUES,
  DIES,
  INFLUENCES,
  type Influence,
  type InfluenceKind,
  type Goal,
  type Population,
  type Parameters,
  type ReferenceParameter,
  type Shot,
  freshId,
  gripFor,
  freshName,
} from '@tangle/core'
import { store } from '../store/index.ts'
import { copied, noticed, selected } from '../store/session.ts'
import { inserted, mended, set } from '../store/shot.ts'
import { fittingFollow, newCombing } from './combings.ts'
import { within } from './within.ts'

/**
 * A new phase behind the others, which nothing leads to yet. What surrounds particles in the phase before acts in it as well, so that who enters it goes on
 * falling and is held by floors; what drives, steers, binds, leads or changes them does not.
 */
export function addPhase(population: Population, index: number): void {
  const name = freshName('Loose', population.phases)
  const before = population.phases.at(-1)!
  const at = ['populations', index]
  const weights = population.influences.flatMap((influence, place) => {
    const weight = influence.weights[before]
    const { surrounds } = INFLUENCES.find(({ kind }) => kind === influence.kind)!
    if (weight === undefined || !surrounds) return []
    return [{ path: [...at, 'influences', place, 'weights', name], value: weight }]
  })
  store.dispatch(mended([{ path: [...at, 'phases'], value: [...population.phases, name] }, ...weights]))
}

/** A new cue from a phase to the one behind it; the last phase ends in death. */
export function addCue(population: Population, index: number, from: string, kind: string): void {
  const id = freshId(
    kind,
    population.cues.map((cue) => cue.id),
  )
  const { named, missing } = neededBy(kind, population, store.getState().shot.present)
  if (missing) {
    store.dispatch(noticed({ text: `This cue needs a ${missing}: make one first`, tone: 'error' }))
    return
  }
  const to = population.phases[population.phases.indexOf(from) + 1] ?? DIES
  const cue = completeCue({ id, from, to, when: { kind, ...named } })
  store.dispatch(inserted({ path: ['populations', index, 'cues'], value: cue }))
  store.dispatch(selected({ population: population.id, cue: id }))
}

/** What a cue of this kind would name, each the first there is, and what of it the shot has none of. */
export function neededBy(kind: string, population: Population, { meshes, masks }: Shot) {
  const first = firstOf(population, meshes.at(-1)?.id, masks[0]?.id)
  return requiredOf(CUES.find((one) => one.kind === kind)!.parameters, first)
}

/** What a new entry of a population may name. */
const firstOf = (
  population: Population,
  mesh: string | undefined,
  mask: string | undefined,
): Record<ReferenceParameter['to'], string | undefined> => ({
  mesh,
  mask,
  combing: store.getState().shot.present.combings[0]?.id,
  goal: population.goals[0]?.id,
  attribute: population.attributes[0]?.id,
  phase: undefined,
  parentPhase: undefined,
  population: store.getState().shot.present.populations.find((one) => one !== population)?.id,
})

/** What a kind must name, each the first there is, and the first of them that the shot has none of. */
function requiredOf(parameters: Parameters, first: ReturnType<typeof firstOf>) {
  const named: Record<string, string> = {}
  let missing: string | null = null
  for (const [name, parameter] of Object.entries(parameters)) {
    if (parameter.type !== 'reference' || parameter.absent !== undefined) continue
    const what = first[parameter.to]
    if (what === undefined) missing ??= parameter.to
    else named[name] = what
  }
  return { named, missing }
}

/** The open population and its place. */
function openPopulation(): { population: Population; index: number } | null {
  const { shot, session } = store.getState()
  const { populations } = shot.present
  const index = Math.max(
    0,
    populations.findIndex((one) => one.id === session.selected.population),
  )
  const population = populations[index]
  return population ? { population, index } : null
}

/** Copies the selected influence of the open population, or all of them. */
export function copyInfluences(all: boolean): void {
  const open = openPopulation()
  if (!open) return
  const { influences } = open.population
  const chosen = store.getState().session.selected.influence
  const one = influences.find((influence) => influence.id === chosen) ?? influences[0]
  const taken = all ? influences : one ? [one] : []
  if (taken.length === 0) return
  store.dispatch(copied(taken))
  const what = taken.length === 1 ? nameOf(taken[0]!) : `${taken.length} influences`
  store.dispatch(
    noticed({ text: `${what} copied: paste in this or another population or shot`, tone: 'info' }),
  )
}
const nameOf = (influence: Influence): string =>
  influence.name ?? INFLUENCES.find((kind) => kind.kind === influence.kind)!.label

/** What responses may read. */
const READ = ['mesh', 'mask', 'goal', 'attribute'] as const

/** Puts the copied influences behind those of the open population. What they name that is not here is left out. */
export function pasteInfluences(): void {
  const open = openPopulation()
  const { clipboard } = store.getState().session
  if (!open || !clipboard) return
  const { meshes, masks, combings, populations } = store.getState().shot.present
  const { population, index } = open
  const here: Record<ReferenceParameter['to'], { id: string }[]> = {
    mesh: meshes,
    mask: masks,
    combing: combings,
    goal: population.goals,
    attribute: population.attributes,
    population: populations,
    phase: population.phases.map((id) => ({ id })),
    parentPhase: [],
  }
  const isKnown = (to: ReferenceParameter['to'], id: unknown): boolean =>
    id === undefined || here[to].some((one) => one.id === id)
  const influences = [...population.influences]
  for (const one of clipboard) {
    const weights = Object.fromEntries(
      population.phases.flatMap((phase) => (one.weights[phase] ? [[phase, one.weights[phase]]] : [])),
    )
    const some = Object.keys(weights).length > 0
    const responses = one.responses?.filter((response) => READ.every((to) => isKnown(to, response[to])))
    const { responses: _, ...rest } = structuredClone(one)
    const { parameters, label } = INFLUENCES.find((kind) => kind.kind === one.kind)!
    for (const [name, parameter] of Object.entries(parameters))
      if (parameter.type === 'reference' && !isKnown(parameter.to, rest[name])) delete rest[name]
    const first = firstOf(population, meshes.at(-1)?.id, masks[0]?.id)
    const { named, missing } = requiredOf(parameters, first)
    if (missing) {
      store.dispatch(noticed({ text: `${label} was not pasted: it needs a ${missing}`, tone: 'error' }))
      continue
    }
    influences.push({
      ...named,
      ...rest,
      id: freshId(
        one.id,
        influences.map((i) => i.id),
      ),
      weights: some ? weights : { [population.phases.at(-1)!]: Math.max(1, ...Object.values(one.weights)) },
      ...(responses && responses.length > 0 ? { responses: structuredClone(responses) } : {}),
    })
  }
  if (influences.length === population.influences.length) return
  store.dispatch(set({ path: ['populations', index, 'influences'], value: influences }))
  store.dispatch(selected({ population: population.id, influence: influences.at(-1)!.id }))
}

/** What an influence of this kind would act through here, or the reason why it cannot be added. */
function beginningsOf(kindName: string, population: Population, shot: Shot) {
  const { meshes, masks } = shot
  const { parameters } = INFLUENCES.find((one) => one.kind === kindName)!
  // who is to go somewhere needs a goal: the first is made along
  const needsGoal = parameters.goal?.type === 'reference' && population.goals.length === 0
  const goal = needsGoal ? newGoal(population, 'surface', shot) : undefined
  const first = firstOf(population, meshes.at(-1)?.id, masks[0]?.id)
  // and who follows a combing one of its mesh
  const mesh = meshes.find(({ id }) => id === population.births[0]?.mesh) ?? meshes.at(-1)
  const needsCombing =
    parameters.combing?.type === 'reference' && !parameters.combing.absent && shot.combings.length === 0
  const combing = needsCombing && mesh ? newCombing(shot, mesh.id) : undefined
  const { named, missing } = requiredOf(parameters, {
    ...first,
    ...(goal && { goal: goal.id }),
    ...(combing && { combing: combing.id }),
  })
  const needed = { goal: 'mesh to go to', combing: 'mesh to comb' }[missing ?? ''] ?? missing
  const reason = missing && `Needs a ${needed}: bring one first`
  return { named, goal, combing, reason }
}

/** Why an influence of this kind cannot be added to the population, or null. */
export const missingForInfluence = (kind: string, population: Population, shot: Shot): string | null =>
  beginningsOf(kind, population, shot).reason

export function addInfluence(population: Population, index: number, kindName: string): void {
  const kind = INFLUENCES.find((one) => one.kind === kindName)!
  const id = freshId(
    kindName,
    population.influences.map((one) => one.id),
  )
  const { named, goal, combing, reason } = beginningsOf(kindName, population, store.getState().shot.present)
  if (reason) {
    store.dispatch(noticed({ text: `${kind.label}: ${reason}`, tone: 'error' }))
    return
  }
  const { phases } = population
  const acts = actsIn(kind, phases)
  const weights = Object.fromEntries(acts.map((phase) => [phase, 1]))
  const { combings } = store.getState().shot.present
  const followed = combing ?? combings.find((one) => one.id === named.combing)
  const fitting = followed
    ? within(kind.parameters, fittingFollow(store.getState().shot.present, followed))
    : {}
  const made = { id, kind: kindName, ...namedApart(kind.label, population), weights, ...fitting, ...named }
  const influence = completeInfluence({ ...gripFor(population, made as Influence), ...made }, phases)
  const changed = {
    ...population,
    goals: goal ? [goal] : population.goals,
    influences: [...population.influences, influence],
  }
  store.dispatch(
    mended([
      { path: ['populations', index], value: changed },
      ...(combing ? [{ path: ['combings'], value: [...combings, combing] }] : []),
    ]),
  )
  store.dispatch(selected({ population: population.id, influence: id }))
}

/** Phases in which a new influence of a kind acts: the one that is selected, or where the kind begins, or all. */
function actsIn({ startsIn }: InfluenceKind, phases: string[]): string[] {
  const { phase } = store.getState().session.selected
  if (phase !== null && phases.includes(phase)) return [phase]
  return startsIn === 'first' ? phases.slice(0, 1) : phases
}

/** A name for a second influence of a kind, so that no two rows are called the same. */
function namedApart(label: string, { influences }: Population): { name?: string } {
  const taken = influences.map(nameOf)
  return taken.includes(label) ? { name: freshName(label, taken) } : {}
}

/** A goal on the last mesh that the population is not born on; undefined where there is nothing to go to. */
export function newGoal(population: Population, kind: string, shot?: Shot): Goal | undefined {
  const { meshes, populations } = shot ?? store.getState().shot.present
  const own = new Set(population.births.map((birth) => birth.mesh))
  const mesh = meshes.findLast((one) => !own.has(one.id)) ?? meshes.at(-1)
  const other = populations.find((one) => one.id !== population.id)
  const target = kind === 'population' ? other : mesh
  if (!target) return undefined
  return completeGoal({
    id: freshId(
      target.id,
      population.goals.map((goal) => goal.id),
    ),
    name: freshName(
      target.name,
      population.goals.map((goal) => goal.name),
    ),
    kind,
    [kind === 'population' ? 'population' : 'mesh']: target.id,
  })
}
