/**
 * How many substeps and rounds a shot needs, from what acts in it and from the size and speed of what moves: small steps
 * before many rounds (Macklin et al., "Small steps in physics simulation", 2019).
 */
import type { Pace } from '../constraints/constraint.ts'
import { meanOf } from '../document/parameters.ts'
import { valueAt, valuesAt, vectorAt } from '../document/keys.ts'
import type { Population, QualityLevel, Shot } from '../document/types.ts'
import { birthKind, influenceKind } from '../registry.ts'

interface Level {
  /** Substeps at least: of any shot, of one with bodies that touch, with links, and with rigid bodies. */
  least: { any: number } & Record<Pace, number>
  /** Share of its radius that a particle may fall from rest, or be late by, in a substep. */
  fall: number
  /** Radii that one may fly in a substep. */
  flight: number
  iterations: number
}

/** Measured (docs/performance.md): at good heaps of sand of 1 to 50 mm radius stand at their angle and do not creep. */
const LEVELS: Record<Exclude<QualityLevel, 'own'>, Level> = {
  draft: { least: { any: 1, touch: 2, links: 4, bodies: 2, liquid: 2 }, fall: 0.3, flight: 4, iterations: 4 },
  good: {
    least: { any: 2, touch: 8, links: 10, bodies: 4, liquid: 4 },
    fall: 0.02,
    flight: 2,
    iterations: 5,
  },
  fine: {
    least: { any: 4, touch: 16, links: 20, bodies: 8, liquid: 8 },
    fall: 0.006,
    flight: 1,
    iterations: 8,
  },
}
export const MOST_SUBSTEPS = 64
/** Degrees that a mesh may turn in a substep: its surface moves on straight lines between both ends. */
export const MOST_TURN = 20
/** Moments at which keyed values are looked at. */
const MOMENTS = 9

export interface Quality {
  substeps: number
  iterations: number
}

/** The substeps and rounds with which a shot is computed. */
export const qualityOf = (shot: Shot): Quality =>
  shot.quality.level === 'own'
    ? { substeps: shot.quality.substeps, iterations: shot.quality.iterations }
    : neededQuality(shot, shot.quality.level)

/** A shot with the numbers of its level written out. */
export const withQuality = (shot: Shot): Shot => ({
  ...shot,
  quality: { ...shot.quality, ...qualityOf(shot) },
})

/** What a level means for a shot. */
export const neededQuality = (shot: Shot, level: Exclude<QualityLevel, 'own'>): Quality => ({
  substeps: Math.min(MOST_SUBSTEPS, wantedSubsteps(shot, level)),
  iterations: LEVELS[level].iterations,
})

/** The substeps that a level would have, were there no most. */
export function wantedSubsteps(shot: Shot, level: Exclude<QualityLevel, 'own'>): number {
  const { least, fall, flight } = LEVELS[level]
  const { rate } = shot.frames
  let substeps = Math.max(least.any, turnsNeeded(shot))
  for (const population of shot.populations) {
    const paces = pacesOf(population)
    for (const pace of paces) substeps = Math.max(substeps, least[pace])
    // liquids take as many as their speed asks for: simulation/adaptiveSteps.ts
    if (!paces.some((pace) => pace === 'touch' || pace === 'links')) continue
    const radius = meanOf(population.particle.radius)
    // g·h² = fall · r
    substeps = Math.max(substeps, Math.sqrt(pullOn(shot, population) / (fall * radius)) / rate)
    substeps = Math.max(substeps, speedOf(shot, population) / (flight * radius * rate))
  }
  return Math.ceil(substeps)
}

const pacesOf = ({ influences }: Population): Pace[] =>
  influences.flatMap(({ kind, muted }) => (muted ? [] : (influenceKind(kind).constraint?.pace ?? [])))

const momentsOf = ({ frames: { first, last } }: Shot): number[] =>
  Array.from({ length: MOMENTS }, (_, n) => first + ((last - first) * n) / (MOMENTS - 1))

/** The strongest even pull on a population, m/s². */
const pullOn = (shot: Shot, population: Population): number =>
  Math.max(0, ...momentsOf(shot).map((frame) => pullAt(population, frame)))

/** The same at a frame. */
export const pullAt = ({ influences, phases }: Population, frame: number): number =>
  Math.max(
    0,
    ...phases.map((phase) => {
      const pull = [0, 0, 0]
      for (const one of influences) {
        const { evenForce, parameters } = influenceKind(one.kind)
        const force = one.muted ? null : evenForce?.(valuesAt(parameters, one, frame))
        const amount = valueAt(one.strength, frame) * (one.weights[phase] ?? 0)
        // what damps draws nobody down
        if (force && force.damping === 0) force.acceleration.forEach((a, axis) => (pull[axis]! += amount * a))
      }
      return Math.sqrt(pull.reduce((sum, a) => sum + a * a, 0))
    }),
  )

/** The greatest speed with which one is born, m/s. */
function speedOf(shot: Shot, { births }: Population): number {
  const { first } = shot.frames
  return Math.max(
    0,
    ...births.map((birth) => {
      const values = valuesAt(birthKind(birth.kind).parameters, birth, first) as Record<string, unknown>
      const [speed, spread] = [values.speed, values.speedSpread].map((one) =>
        typeof one === 'number' ? one : 0,
      )
      return Math.abs(speed!) * (1 + spread!)
    }),
  )
}

/** Substeps in which no mesh that something runs into turns too far. */
export function turnsNeeded(shot: Shot): number {
  return Math.max(0, ...shot.meshes.map(({ id }) => Math.ceil(mostTurn(shot, id) / MOST_TURN)))
}
/** Degrees that a mesh turns in a frame at the most, where something runs into it. */
export function mostTurn({ frames: { first, last }, meshes, populations }: Shot, mesh: string): number {
  const isHit = populations.some(({ influences }) =>
    influences.some((one) => !one.muted && one.mesh === mesh && influenceKind(one.kind).constraint),
  )
  const { rotation } = meshes.find(({ id }) => id === mesh)!.place
  if (!isHit || rotation.every((part) => typeof part === 'number')) return 0
  let most = 0
  for (let frame = first; frame < last; frame++) {
    const [a, b] = [vectorAt(rotation, frame), vectorAt(rotation, frame + 1)]
    most = Math.max(most, ...a.map((angle, axis) => Math.abs(b[axis]! - angle)))
  }
  return most
}
