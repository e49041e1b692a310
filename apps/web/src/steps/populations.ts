import {
  completeBirth,
  completeInfluence,
  completePopulation,
  type Birth,
  type Influence,
  type Population,
} from '@tangle/core'
import { store } from '../store/index.ts'
import { selected } from '../store/session.ts'
import { inserted } from '../store/shot.ts'
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

export function addInfluence(population: Population, index: number, kind: string): void {
  const id = freshId(
    kind,
    population.influences.map((one) => one.id),
  )
  const influence: Influence = completeInfluence({ id, kind }, population.phases)
  store.dispatch(inserted({ path: ['populations', index, 'influences'], value: influence }))
  store.dispatch(selected({ population: population.id, influence: id }))
}
