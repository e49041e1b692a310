/** New populations, and new births of them. */
import {
  birthKind,
  completeBirth,
  completeCue,
  completeInfluence,
  completePopulation,
  type Birth,
  type Influence,
  type Population,
  type ShotMesh,
  freshId,
  freshName,
  LOOK,
  placeAt,
  standing,
  standsOff,
  transform,
  type Vector,
} from '@tangle/core'
import { engine } from '../engine/engine.ts'
import { roundedTo } from '../rounding.ts'
import { stage } from '../stage/Stage.tsx'
import { store } from '../store/index.ts'
import { noticed, selected } from '../store/session.ts'
import { inserted } from '../store/shot.ts'

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
  const { populations, meshes, stage } = store.getState().shot.present
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
    look: { ...LOOK, colour: { ...LOOK.colour, ramp: standsOff(stage.backdrop) } },
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

/** A population that the particles of another leave behind: a wake that stays where it is born. */
export function addOffspring(parents: Population): void {
  const { populations, stage } = store.getState().shot.present
  const name = freshName(
    `Wake of ${parents.name}`,
    populations.map((p) => p.name),
  )
  const id = freshId(
    name,
    populations.map((p) => p.id),
  )
  const look = { ...LOOK, colour: { ...LOOK.colour, ramp: standsOff(stage.backdrop) } }
  const population = completePopulation({ id, name, particle: { ...STANDARD }, look })
  population.births.push(bornOf(population, parents.id))
  store.dispatch(inserted({ path: ['populations'], value: population }))
  store.dispatch(selected({ population: id, birth: population.births[0]!.id }))
}

/** As far from one another as a few of them are wide. */
function bornOf({ births, phases, particle: { radius } }: Population, from: string): Birth {
  const id = freshId(
    'offspring',
    births.map((birth) => birth.id),
  )
  const mean = typeof radius === 'number' ? radius : radius.mean
  const spacing = Number((8 * mean).toPrecision(2))
  return completeBirth({ id, kind: 'particles', from, into: phases[0]!, amount: { spacing } })
}

export function addBirth(population: Population, index: number, kind: string): void {
  const { populations, meshes } = store.getState().shot.present
  if (!birthKind(kind).prepare) {
    const other = populations.find((one) => one !== population) ?? population
    return insertBirth(population, index, bornOf(population, other.id))
  }
  const mesh = store.getState().session.selected.mesh ?? meshes[0]!.id
  insertBirth(population, index, newBirth(population, kind, mesh))
}

function insertBirth(population: Population, index: number, birth: Birth): void {
  store.dispatch(inserted({ path: ['populations', index, 'births'], value: birth }))
  store.dispatch(selected({ population: population.id, birth: birth.id }))
}

/** A flat box of air over all meshes, as high above the highest point as is wide enough to see it fall; from the middle of the mesh that it follows. */
function boxAbove(mesh: ShotMesh | undefined): Partial<Birth> {
  const extent = stage.world?.extent()
  const facts = mesh && engine.meshOf(mesh.source)?.facts
  if (!extent || !facts) return {}
  const { centre, reach, top } = extent
  const own = facts.low.map((x, axis) => (x + facts.high[axis]!) / 2) as Vector
  const from = transform(placeAt(standing(store.getState().shot.present, mesh).place, engine.frame), own)
  const high: Vector = [centre[0], top + 0.3 * reach, centre[2]]
  const round = (x: number): number => roundedTo(x, reach, 2)
  return {
    size: [2.4, 0.2, 2.4].map((x) => round(x * reach)),
    middle: high.map((x, axis) => round(x - from[axis]!)),
    speed: round(0.4 * reach),
  }
}

function newBirth(population: Population, kind: string, mesh: string): Birth {
  const id = freshId(
    kind,
    population.births.map((birth) => birth.id),
  )
  const { meshes, frames } = store.getState().shot.present
  const { makesPieces, onCut, fills } = birthKind(kind)
  if (!makesPieces) {
    const isCut = (one?: ShotMesh): boolean => one !== undefined && one.cut !== null
    const on =
      !onCut || isCut(meshes.find((one) => one.id === mesh)) ? mesh : (meshes.find(isCut)?.id ?? mesh)
    const amount = fills ? { burst: 'all' as const, at: frames.first } : { rate: 5000 }
    const above = kind === 'region' ? boxAbove(meshes.find((one) => one.id === on)) : {}
    return completeBirth({ id, kind, mesh: on, into: population.phases[0]!, amount, ...above })
  }
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
