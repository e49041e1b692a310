import { gripFor } from './materials.ts'
import { BIRTHS, CUES, DEFORMATIONS, GOALS, INFLUENCES, MASKS } from '../registry.ts'
import { defaultsOf, type Parameters } from '../document/parameters.ts'
import { EATEN, INSTANCES, PARTICLE, PLACE, PLAYBACK, TEXT } from '../document/ownParameters.ts'
import { TRAIL } from '../document/trailParameters.ts'
import { COMBING } from '../document/combing.ts'
import { CAMERA } from '../document/camera.ts'
import { CUT } from '../document/cut.ts'
import { BLOOM, GLOW, THREADS } from '../document/lightParameters.ts'
import { MESH_LOOK, type MeshLook } from '../document/meshLook.ts'
import { LIGHT, PICTURE, SURROUNDINGS } from '../document/stageParameters.ts'
import { SKIN } from '../document/skin.ts'
import { FRACTURE, SHELL } from '../document/madeMeshes.ts'
import type {
  Birth,
  Camera,
  Combing,
  Cue,
  Cut,
  Deformation,
  Eaten,
  FractureSource,
  Glow,
  Goal,
  Influence,
  Instances,
  Look,
  Mask,
  MeshSource,
  OwnAttribute,
  Population,
  Shot,
  ShellSource,
  ShotMesh,
  Skin,
  TextSource,
  Threads,
  Trail,
} from '../document/types.ts'

const STAGE: Shot['stage'] = {
  camera: { position: [4, 3, 6], target: [0, 1, 0], fieldOfView: 40 },
  light: defaultsOf(LIGHT) as Shot['stage']['light'],
  backdrop: 'dusk',
  surroundings: defaultsOf(SURROUNDINGS) as Shot['stage']['surroundings'],
  picture: defaultsOf(PICTURE) as Shot['stage']['picture'],
  bloom: defaultsOf(BLOOM) as unknown as Shot['stage']['bloom'],
}
const MESH_DEFAULT = defaultsOf(MESH_LOOK) as unknown as MeshLook
export const LOOK: Look = {
  draw: 'points',
  shutter: 0.5,
  instances: null,
  colour: { from: 'age', range: [0, 1], ramp: 'ember' },
  trail: null,
  glow: null,
  threads: null,
  skin: null,
}
const QUALITY = { substeps: 2, iterations: 4, previewShare: 1, settle: 0 }

/** A checked document with every default written out. */
export function completed(shot: Partial<Shot> & Pick<Shot, 'name' | 'frames'>): Shot {
  return {
    format: 'tangle-shot',
    version: 1,
    name: shot.name,
    frames: shot.frames,
    seed: shot.seed ?? 1,
    quality: completeQuality(shot.quality),
    meshes: (shot.meshes ?? []).map(completeMesh),
    masks: (shot.masks ?? []).map(completeMask),
    combings: (shot.combings ?? []).map(completeCombing),
    cameras: (shot.cameras ?? []).map(completeCamera),
    populations: (shot.populations ?? []).map(completePopulation),
    stage: {
      camera: { ...STAGE.camera, ...shot.stage?.camera },
      light: { ...STAGE.light, ...shot.stage?.light },
      backdrop: shot.stage?.backdrop ?? STAGE.backdrop,
      surroundings: { ...STAGE.surroundings, ...shot.stage?.surroundings },
      picture: { ...STAGE.picture, ...shot.stage?.picture },
      bloom: { ...STAGE.bloom, ...shot.stage?.bloom },
    },
    lifted: shot.lifted ?? [],
  }
}

/** Numbers that a document gives are taken as they stand, unless it says a level, too. */
function completeQuality(given: Partial<Shot['quality']> = {}): Shot['quality'] {
  const typed = given.substeps !== undefined || given.iterations !== undefined
  return { level: typed ? 'own' : 'good', ...QUALITY, ...given }
}

export const completeCamera = (camera: Partial<Camera> & { id: string }): Camera =>
  ({ name: camera.id, ...defaultsOf(CAMERA), ...camera }) as Camera

type GivenMesh = Partial<Omit<ShotMesh, 'look'>> &
  Pick<ShotMesh, 'id' | 'source'> & { look?: Partial<MeshLook> }
export function completeMesh(mesh: GivenMesh): ShotMesh {
  return {
    id: mesh.id,
    name: mesh.name ?? mesh.id,
    source: completeSource(mesh.source),
    place: { ...(defaultsOf(PLACE) as unknown as ShotMesh['place']), ...mesh.place },
    playback: { ...(defaultsOf(PLAYBACK) as unknown as ShotMesh['playback']), ...mesh.playback },
    deform: (mesh.deform ?? []).map(completeDeformation),
    eaten: mesh.eaten ? completeEaten(mesh.eaten) : null,
    cut: mesh.cut ? completeCut(mesh.cut) : null,
    detail: mesh.detail ?? 'auto',
    visible: mesh.visible ?? true,
    look: { ...MESH_DEFAULT, ...mesh.look },
  }
}

function completeSource(source: MeshSource): MeshSource {
  if ('text' in source) return { text: { ...textDefaults(), ...source.text } }
  if ('fracture' in source)
    return { fracture: { ...(defaultsOf(FRACTURE) as unknown as FractureSource), ...source.fracture } }
  if ('shell' in source)
    return { shell: { ...(defaultsOf(SHELL) as unknown as ShellSource), ...source.shell } }
  return source
}

export function completePopulation(population: Partial<Population> & { id: string }): Population {
  const { phases = ['Loose'], material = null } = population
  return {
    id: population.id,
    name: population.name ?? population.id,
    phases,
    material,
    particle: {
      ...(defaultsOf(PARTICLE) as unknown as Population['particle']),
      lifespan: null,
      ...population.particle,
    },
    attributes: (population.attributes ?? []).map(completeAttribute),
    births: (population.births ?? []).map(completeBirth),
    cues: (population.cues ?? []).map(completeCue),
    goals: (population.goals ?? []).map(completeGoal),
    influences: (population.influences ?? []).map((one) =>
      completeInfluence({ ...gripFor({ material }, one), ...one }, phases),
    ),
    look: completeLook(population.look),
    keep: population.keep ?? null,
    precision: population.precision ?? 'compact',
  }
}

/** An attribute of the artist's own that says nothing else is a number, 1 for everyone. */
export const completeAttribute = (one: Partial<OwnAttribute> & { id: string }): OwnAttribute => ({
  id: one.id,
  name: one.name ?? one.id,
  type: one.type ?? 'number',
  unit: one.unit ?? '',
  birth: one.birth ?? {
    mean: one.type === 'colour' ? '#ffffff' : one.type === 'vector' ? [0, 0, 0] : 1,
    spread: 0,
  },
})

const completeLook = (look: Partial<Look> | undefined): Look => ({
  ...LOOK,
  ...look,
  colour: { ...LOOK.colour, ...look?.colour },
  instances: look?.instances ? completeInstances(look.instances) : null,
  trail: look?.trail ? completeTrail(look.trail) : null,
  glow: look?.glow ? completeGlow(look.glow) : null,
  threads: look?.threads ? completeThreads(look.threads) : null,
  skin: look?.skin ? completeSkin(look.skin) : null,
})
export const completeInstances = (instances: Partial<Instances>): Instances =>
  ({
    ...defaultsOf(INSTANCES),
    ...instances,
    set: (instances.set ?? []).map((one) => ({ ...one, weight: one.weight ?? 1 })),
  }) as Instances
export const completeGlow = (glow: Partial<Glow>): Glow => ({ ...defaultsOf(GLOW), ...glow }) as Glow
export const completeSkin = (skin: Partial<Skin>): Skin => ({ ...defaultsOf(SKIN), ...skin }) as Skin
export const completeThreads = (threads: Partial<Threads>): Threads =>
  ({ ...defaultsOf(THREADS), ...threads }) as Threads
export const completeTrail = (trail: Partial<Trail>): Trail => ({ ...defaultsOf(TRAIL), ...trail }) as Trail

interface Kind {
  kind: string
  parameters: Parameters
}
/** An entry with the defaults of its kind. */
function completeKind<T extends { kind: string }>(kinds: Kind[], entry: T): T {
  const kind = kinds.find((k) => k.kind === entry.kind)
  return { ...(kind ? defaultsOf(kind.parameters) : {}), ...entry }
}
const textDefaults = () => defaultsOf(TEXT) as unknown as TextSource

export const completeBirth = (birth: Birth): Birth => completeKind(BIRTHS, birth)
export const completeDeformation = (one: Deformation): Deformation => completeKind(DEFORMATIONS, one)
export const completeMask = (mask: Partial<Mask> & Pick<Mask, 'id' | 'kind'>): Mask =>
  completeKind(MASKS, { ...mask, name: mask.name ?? mask.id }) as Mask
export const completeCombing = (combing: Partial<Combing> & Pick<Combing, 'id' | 'mesh'>): Combing =>
  ({ ...defaultsOf(COMBING), ...combing, name: combing.name ?? combing.id }) as Combing
export const completeEaten = (eaten: Partial<Eaten> & Pick<Eaten, 'mask'>): Eaten =>
  ({ ...defaultsOf(EATEN), ...eaten }) as Eaten
export const completeCut = (cut: Partial<Cut> & Pick<Cut, 'by'>): Cut =>
  ({ ...defaultsOf(CUT), ...cut }) as Cut
export const completeGoal = (goal: Partial<Goal> & Pick<Goal, 'id' | 'kind'>): Goal =>
  completeKind(GOALS, { ...goal, name: goal.name ?? goal.id }) as Goal
export const completeCue = (cue: Partial<Cue> & Pick<Cue, 'id' | 'from' | 'to' | 'when'>): Cue => ({
  ...cue,
  chance: cue.chance ?? 1,
  when: completeKind(CUES, cue.when),
})

/** An influence that names no weights acts fully in the first phase. */
export function completeInfluence(
  influence: Partial<Influence> & Pick<Influence, 'id' | 'kind'>,
  phases: string[],
): Influence {
  return completeKind(INFLUENCES, { weights: { [phases[0]!]: 1 }, ...influence }) as Influence
}

/** A shot with nothing in it. */
export const emptyShot = (name: string): Shot =>
  completed({ name, frames: { first: 1, last: 120, rate: 24 } })
