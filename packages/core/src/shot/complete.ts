import { BIRTHS } from '../births/index.ts'
import { INFLUENCES } from '../influences/index.ts'
import { defaultsOf } from './parameters.ts'
import { PARTICLE, PLACE } from './rules.ts'
import type { Birth, Influence, Population, Shot, ShotMesh } from './types.ts'

const STAGE: Shot['stage'] = {
  camera: { position: [4, 3, 6], target: [0, 1, 0], fieldOfView: 40 },
  light: { bearing: -50, height: 40, strength: 1 },
  backdrop: 'dusk',
}
export const LOOK: Population['look'] = {
  draw: 'points',
  colour: { from: 'age', range: [0, 1], ramp: 'ember' },
}
const QUALITY: Shot['quality'] = { substeps: 2, iterations: 4, previewShare: 1 }

/** A checked document with every default written out. */
export function completed(shot: Partial<Shot> & Pick<Shot, 'name' | 'frames'>): Shot {
  return {
    format: 'tangle-shot',
    version: 1,
    name: shot.name,
    frames: shot.frames,
    seed: shot.seed ?? 1,
    quality: { ...QUALITY, ...shot.quality },
    meshes: (shot.meshes ?? []).map(completeMesh),
    masks: [],
    populations: (shot.populations ?? []).map(completePopulation),
    stage: {
      camera: { ...STAGE.camera, ...shot.stage?.camera },
      light: { ...STAGE.light, ...shot.stage?.light },
      backdrop: shot.stage?.backdrop ?? STAGE.backdrop,
    },
  }
}

export function completeMesh(mesh: Partial<ShotMesh> & Pick<ShotMesh, 'id' | 'source'>): ShotMesh {
  return {
    id: mesh.id,
    name: mesh.name ?? mesh.id,
    source: mesh.source,
    place: { ...(defaultsOf(PLACE) as unknown as ShotMesh['place']), ...mesh.place },
    visible: mesh.visible ?? true,
  }
}

export function completePopulation(population: Partial<Population> & { id: string }): Population {
  const phases = population.phases ?? ['Loose']
  return {
    id: population.id,
    name: population.name ?? population.id,
    phases,
    particle: {
      ...(defaultsOf(PARTICLE) as unknown as Population['particle']),
      lifespan: null,
      ...population.particle,
    },
    births: (population.births ?? []).map(completeBirth),
    cues: [],
    influences: (population.influences ?? []).map((one) => completeInfluence(one, phases)),
    look: { ...LOOK, ...population.look, colour: { ...LOOK.colour, ...population.look?.colour } },
  }
}

export function completeBirth(birth: Birth): Birth {
  const kind = BIRTHS.find((k) => k.kind === birth.kind)
  return { ...(kind ? defaultsOf(kind.parameters) : {}), ...birth }
}

/** An influence that names no weights acts fully in the first phase. */
export function completeInfluence(
  influence: Partial<Influence> & Pick<Influence, 'id' | 'kind'>,
  phases: string[],
): Influence {
  const kind = INFLUENCES.find((k) => k.kind === influence.kind)
  return {
    ...(kind ? defaultsOf(kind.parameters) : {}),
    weights: { [phases[0]!]: 1 },
    ...influence,
  } as Influence
}

/** A shot with nothing in it. */
export const emptyShot = (name: string): Shot =>
  completed({ name, frames: { first: 1, last: 120, rate: 24 } })
