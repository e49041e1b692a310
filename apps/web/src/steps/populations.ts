import {
  birthKind,
  completeBirth,
  completeCue,
  completeGoal,
  completeInfluence,
  completePopulation,
  CUES,
  DIES,
  INFLUENCES,
  type Birth,
  type Influence,
  type Goal,
  type Population,
  type Parameters,
  type ReferenceParameter,
  type Shot,
  type ShotMesh,
} from '@tangle/core'
import { store } from '../store/index.ts'
import { copied, noticed, selected } from '../store/session.ts'
import { inserted, set } from '../store/shot.ts'
import { freshId, freshName } from '../words.ts'

/** What new particles are given: grains that live for about three seconds. */
const STANDARD: Population['particle'] = {
  radius: { mean: 0.01, spread: 0.3 },
  sizes: 'even',
  density: 1000,
  lifespan: { mean: 72, spread: 24 },
  speedLimit: 200,
}

/** A new population, with a birth on the first mesh if there is one. */
export function addPopulation(): void {
  const { populations, meshes } = store.getState().shot.present
  const name = freshName(
    'Dust',
    populations.map((p) => p.name),
  )
  const population = completePopulation({
    id: freshId(
      name,
      populations.map((p) => p.id),
    ),
    name,
    particle: { ...STANDARD },
  })
  const birth = meshes[0] && newBirth(population, 'surface', meshes[0].id)
  if (birth) population.births.push(birth)
  store.dispatch(inserted({ path: ['populations'], value: population }))
  store.dispatch(selected({ population: population.id, birth: birth?.id ?? null }))
}

/** A population of the pieces of a broken mesh: whole at first, half a second later they fall. */
export function addPieces(mesh: ShotMesh): void {
  const { populations } = store.getState().shot.present
  const name = freshName(
    'Pieces',
    populations.map((p) => p.name),
  )
  const id = freshId(
    name,
    populations.map((p) => p.id),
  )
  const phases = ['Held', 'Free']
  const acts = (kind: string, phase: string): Influence =>
    completeInfluence({ id: kind, kind, weights: { [phase]: 1 } }, phases)
  const population = completePopulation({
    id,
    name,
    phases,
    particle: { ...STANDARD, lifespan: null, density: 2000 },
    influences: [acts('ride', 'Held'), acts('gravity', 'Free'), acts('rigid', 'Free'), acts('floor', 'Free')],
    look: {
      ...completePopulation({ id }).look,
      draw: 'pieces',
      colour: { from: 'own', range: [0, 1], ramp: 'ember' },
    },
  })
  population.births.push(newBirth(population, 'pieces', mesh.id))
  population.cues.push(
    completeCue({ id: 'lets-go', from: 'Held', to: 'Free', when: { kind: 'after', frames: 12 } }),
  )
  store.dispatch(inserted({ path: ['populations'], value: population }))
  store.dispatch(selected({ population: id, birth: population.births[0]!.id }))
  store.dispatch(
    noticed({ text: `${name}: ${mesh.name} falls apart, see Motion`, tone: 'info', undo: { kind: 'edit' } }),
  )
}

export function addBirth(population: Population, index: number, kind: string): void {
  const mesh = store.getState().session.selected.mesh ?? store.getState().shot.present.meshes[0]!.id
  const birth = newBirth(population, kind, mesh)
  store.dispatch(inserted({ path: ['populations', index, 'births'], value: birth }))
  store.dispatch(selected({ population: population.id, birth: birth.id }))
}

function newBirth(population: Population, kind: string, mesh: string): Birth {
  const id = freshId(
    kind,
    population.births.map((birth) => birth.id),
  )
  const { meshes, frames } = store.getState().shot.present
  if (!birthKind(kind).makesPieces)
    return completeBirth({ id, kind, mesh, into: population.phases[0]!, amount: { rate: 5000 } })
  const isBroken = (one?: ShotMesh): boolean => one !== undefined && 'fracture' in one.source
  const broken = isBroken(meshes.find((one) => one.id === mesh)) ? mesh : (meshes.find(isBroken)?.id ?? mesh)
  return completeBirth({
    id,
    kind,
    mesh: broken,
    into: population.phases[0]!,
    amount: { burst: 'all', at: frames.first },
  })
}

/** A new phase behind the others, which nothing leads to yet. */
export function addPhase(population: Population, index: number): void {
  const name = freshName('Loose', population.phases)
  store.dispatch(inserted({ path: ['populations', index, 'phases'], value: name }))
}

/** A new cue from a phase to the one behind it; the last phase ends in death. */
export function addCue(population: Population, index: number, from: string, kind: string): void {
  const { meshes, masks } = store.getState().shot.present
  const id = freshId(
    kind,
    population.cues.map((cue) => cue.id),
  )
  const first = firstOf(population, meshes.at(-1)?.id, masks[0]?.id)
  const { named, missing } = requiredOf(CUES.find((one) => one.kind === kind)!.parameters, first)
  if (missing) {
    store.dispatch(noticed({ text: `This cue needs a ${missing}: make one first`, tone: 'error' }))
    return
  }
  const to = population.phases[population.phases.indexOf(from) + 1] ?? DIES
  const cue = completeCue({ id, from, to, when: { kind, ...named } })
  store.dispatch(inserted({ path: ['populations', index, 'cues'], value: cue }))
  store.dispatch(selected({ population: population.id, cue: id }))
}

/** What a new entry of a population may name. */
const firstOf = (
  population: Population,
  mesh: string | undefined,
  mask: string | undefined,
): Record<ReferenceParameter['to'], string | undefined> => ({
  mesh,
  mask,
  goal: population.goals[0]?.id,
  attribute: population.attributes[0]?.id,
  phase: undefined,
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
  const { meshes, masks, populations } = store.getState().shot.present
  const { population, index } = open
  const here: Record<ReferenceParameter['to'], { id: string }[]> = {
    mesh: meshes,
    mask: masks,
    goal: population.goals,
    attribute: population.attributes,
    population: populations,
    phase: population.phases.map((id) => ({ id })),
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
  const { named, missing } = requiredOf(parameters, goal ? { ...first, goal: goal.id } : first)
  const reason = missing && `Needs a ${missing === 'goal' ? 'mesh to go to' : missing}: bring one first`
  return { named, goal, reason }
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
  const { named, goal, reason } = beginningsOf(kindName, population, store.getState().shot.present)
  if (reason) {
    store.dispatch(noticed({ text: `${kind.label}: ${reason}`, tone: 'error' }))
    return
  }
  const { phases } = population
  const acts = { first: phases.slice(0, 1), last: phases.slice(-1), all: phases }[kind.startsIn ?? 'last']
  const weights = Object.fromEntries(acts.map((phase) => [phase, 1]))
  const influence = completeInfluence({ id, kind: kindName, weights, ...named }, phases)
  const changed = {
    ...population,
    goals: goal ? [goal] : population.goals,
    influences: [...population.influences, influence],
  }
  store.dispatch(set({ path: ['populations', index], value: changed }))
  store.dispatch(selected({ population: population.id, influence: id, goal: null }))
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
    name: target.name,
    kind,
    [kind === 'population' ? 'population' : 'mesh']: target.id,
  })
}
