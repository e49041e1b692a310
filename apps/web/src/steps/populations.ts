import {
  completeBirth,
  completeCue,
  completeInfluence,
  completePopulation,
  CUES,
  DIES,
  INFLUENCES,
  type Birth,
  type Influence,
  type Population,
} from '@tangle/core'
import { store } from '../store/index.ts'
import { copied, noticed, selected } from '../store/session.ts'
import { inserted, set } from '../store/shot.ts'
import { freshId, freshName } from '../words.ts'

/** What new particles are given: grains that live for about three seconds. */
const STANDARD: Population['particle'] = {
  radius: { mean: 0.01, spread: 0.3 },
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
  return completeBirth({ id, kind, mesh, into: population.phases[0]!, amount: { rate: 5000 } })
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
  const needed = CUES.find((one) => one.kind === kind)!.parameters
  const first = { mesh: meshes.at(-1)?.id, mask: masks[0]?.id, phase: undefined }
  const named: Record<string, string> = {}
  for (const [name, parameter] of Object.entries(needed)) {
    if (parameter.type !== 'reference' || parameter.absent !== undefined) continue
    const what = first[parameter.to]
    if (what === undefined) {
      store.dispatch(noticed({ text: `This cue needs a ${parameter.to}: make one first`, tone: 'error' }))
      return
    }
    named[name] = what
  }
  const to = population.phases[population.phases.indexOf(from) + 1] ?? DIES
  const cue = completeCue({ id, from, to, when: { kind, ...named } })
  store.dispatch(inserted({ path: ['populations', index, 'cues'], value: cue }))
  store.dispatch(selected({ population: population.id, cue: id }))
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

/** Puts the copied influences behind those of the open population. What they name that is not here is left out. */
export function pasteInfluences(): void {
  const open = openPopulation()
  const { clipboard } = store.getState().session
  if (!open || !clipboard) return
  const { meshes, masks } = store.getState().shot.present
  const { population, index } = open
  const known = new Set([...meshes, ...masks].map((one) => one.id))
  const influences = [...population.influences]
  for (const one of clipboard) {
    const weights = Object.fromEntries(
      population.phases.flatMap((phase) => (one.weights[phase] ? [[phase, one.weights[phase]]] : [])),
    )
    const some = Object.keys(weights).length > 0
    const responses = one.responses?.filter(
      ({ mesh, mask }) => (mesh === undefined || known.has(mesh)) && (mask === undefined || known.has(mask)),
    )
    const { responses: _, ...rest } = structuredClone(one)
    influences.push({
      ...rest,
      id: freshId(
        one.id,
        influences.map((i) => i.id),
      ),
      weights: some ? weights : { [population.phases.at(-1)!]: Math.max(1, ...Object.values(one.weights)) },
      ...(responses && responses.length > 0 ? { responses: structuredClone(responses) } : {}),
    })
  }
  store.dispatch(set({ path: ['populations', index, 'influences'], value: influences }))
  store.dispatch(selected({ population: population.id, influence: influences.at(-1)!.id }))
}

export function addInfluence(population: Population, index: number, kind: string): void {
  const id = freshId(
    kind,
    population.influences.map((one) => one.id),
  )
  // what holds acts in the first phase, all else where particles are free
  const family = INFLUENCES.find((one) => one.kind === kind)!.family
  const phase = family === 'constraints' ? population.phases[0]! : population.phases.at(-1)!
  const influence: Influence = completeInfluence({ id, kind, weights: { [phase]: 1 } }, population.phases)
  store.dispatch(inserted({ path: ['populations', index, 'influences'], value: influence }))
  store.dispatch(selected({ population: population.id, influence: id }))
}
