import { INFLUENCES } from '../registry.ts'
import { coveredMeshes } from './coveredMeshes.ts'
import { qualityOf } from './quality.ts'
import { attributesOf } from './requiredAttributes.ts'
import { valueAt, valuesAt } from '../document/keys.ts'
import type { Birth, Influence, Population, Shot } from '../document/types.ts'

const same = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b)

/**
 * The first frame at which particles of two shots can differ, or null when none does. Frames before it may be kept,
 * and the computation may go on from a snapshot taken at the frame before it.
 */
export function firstChangedFrame(before: Shot, after: Shot): number | null {
  const start = Math.min(before.frames.first, after.frames.first)
  const followed = [before, after].some(({ populations }) =>
    populations.some(({ births }) => births.some(({ follows }) => follows === 'camera')),
  )
  const clock = (shot: Shot): unknown => {
    const { frames, seed, quality, stage } = shot
    return [
      frames.first,
      frames.rate,
      seed,
      quality,
      // what acts may ask for other substeps
      qualityOf(shot),
      followed ? stage.camera : null,
    ]
  }
  const makeup = (shot: Shot): unknown => [
    shot.populations.map((p) => [
      p.id,
      p.phases,
      p.particle,
      p.attributes,
      p.cues,
      p.goals,
      attributesOf(p),
      p.keep,
    ]),
    // a covered mesh is another one to collide with
    [...coveredMeshes(shot)],
  ]
  if (!same(clock(before), clock(after)) || !same(makeup(before), makeup(after))) return start
  const moved = before.meshes.length !== after.meshes.length || !same(bodies(before), bodies(after))
  let first = Infinity
  // what is left of a mesh is measured from the first frame on
  if (moved) first = start
  before.populations.forEach((population, i) => {
    first = Math.min(first, firstDifference(population, after.populations[i]!, before))
  })
  return first === Infinity ? null : first
}

/** What meshes and masks are. What a mask does to particles may begin with the first of them. */
const bodies = (shot: Shot): unknown => [
  shot.masks,
  shot.meshes.map((m) => [m.id, m.source, m.place, m.deform, m.eaten, m.detail]),
]

/** The frame at which a birth begins. */
function startOf(birth: Birth, shot: Shot): number {
  const { amount } = birth
  const start = 'burst' in amount ? amount.at : (amount.from ?? shot.frames.first)
  return Math.max(shot.frames.first, start)
}

function firstDifference(a: Population, b: Population, shot: Shot): number {
  const births = pairs(a.births, b.births)
    .filter(([x, y]) => !same(x, y))
    .map(([x, y]) => Math.min(...[x, y].filter((one) => one !== undefined).map((one) => startOf(one, shot))))
  const born = Math.min(...[...a.births, ...b.births].map((one) => startOf(one, shot)))
  const influences = pairs(a.influences, b.influences)
    .filter(([x, y]) => !same(x, y))
    .map(([x, y]) => Math.max(born, firstActing(x, y, a.phases, shot)))
  // the order of influences decides the order of sums
  if (
    !same(
      a.influences.map((i) => i.id),
      b.influences.map((i) => i.id),
    )
  )
    influences.push(born)
  if (
    !same(
      a.births.map((one) => one.id),
      b.births.map((one) => one.id),
    )
  )
    births.push(born)
  return Math.min(Infinity, ...births, ...influences)
}

/** Entries of two lists by id; one is undefined where the other list has no such entry. */
function pairs<T extends { id: string }>(a: T[], b: T[]): [T | undefined, T | undefined][] {
  const ids = [...new Set([...a, ...b].map((one) => one.id))]
  return ids.map((id) => [a.find((one) => one.id === id), b.find((one) => one.id === id)])
}

/** The first frame at which two versions of an influence act differently. */
function firstActing(
  a: Influence | undefined,
  b: Influence | undefined,
  phases: string[],
  shot: Shot,
): number {
  const { first, last } = shot.frames
  for (let frame = first; frame <= last; frame++) {
    // a substep lies between two frames: compare at both ends and in the middle
    for (const at of [frame, frame + 0.5, frame + 1]) {
      if (!same(acting(a, phases, at), acting(b, phases, at))) return frame
    }
  }
  return Infinity
}

/** What an influence does at a frame; null when it does nothing. */
function acting(influence: Influence | undefined, phases: string[], frame: number): unknown {
  if (!influence || influence.muted) return null
  const kind = INFLUENCES.find((k) => k.kind === influence.kind)
  const strength = valueAt(influence.strength, frame)
  const weights = phases.map((phase) => (influence.weights[phase] ?? 0) * strength)
  if (!kind || (weights.every((w) => w === 0) && !kind.actsAtZero)) return null
  return [kind.kind, weights, valuesAt(kind.parameters, influence, frame), influence.responses]
}
