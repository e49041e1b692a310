import { INFLUENCES } from '../registry.ts'
import { coveredMeshes } from './coveredMeshes.ts'
import { qualityOf } from './quality.ts'
import { attributesOf, carriedBySkin } from './requiredAttributes.ts'
import { valueAt, valuesAt } from '../document/keys.ts'
import type { Key, Keyed } from '../document/parameters.ts'
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
      attributesOf(p, shot.populations),
      p.keep,
      // frames hold skins as they were made
      p.look.skin && [p.look.skin.cells, p.look.skin.smoothing, carriedBySkin(p)],
    ]),
    // a covered mesh is another one to collide with
    [...coveredMeshes(shot)],
  ]
  if (!same(clock(before), clock(after)) || !same(makeup(before), makeup(after))) return start
  // keys of meshes and masks count from the moment at which they say another thing
  const moved = Math.max(start, Math.floor(firstOther(bodies(before), bodies(after))))
  let first = moved
  before.populations.forEach((population, i) => {
    first = Math.min(first, firstDifference(population, after.populations[i]!, before))
  })
  return first === Infinity ? null : first
}

/** What meshes, masks and combings are. */
const bodies = (shot: Shot): unknown => [
  shot.masks,
  shot.combings,
  shot.meshes.map((m) => [m.id, m.source, m.place, m.playback, m.deform, m.eaten, m.cut, m.detail]),
]

/** The frame from which on two values differ: from one of their keys on, −∞ for what has none, ∞ where they are the same. */
function firstOther(a: unknown, b: unknown): number {
  if (same(a, b)) return Infinity
  if (!isObject(a) || !isObject(b)) return -Infinity
  if (isKeyed(a) && isKeyed(b)) {
    const ends = a.repeat === b.repeat ? Infinity : Math.min(a.keys.at(-1)![0], b.keys.at(-1)![0])
    return Math.min(ends, firstOtherKey(a.keys, b.keys))
  }
  const [one, other]: Record<string, unknown>[] = [a, b]
  return Math.min(...Object.keys({ ...a, ...b }).map((name) => firstOther(one![name], other![name])))
}
const isObject = (a: unknown): a is Record<string, unknown> => typeof a === 'object' && a !== null
const isKeyed = (a: Record<string, unknown>): a is Exclude<Keyed, number> => Array.isArray(a.keys)

/** Between the last key that is the same and the next the value differs already, unless it is held. */
function firstOtherKey(a: Key[], b: Key[]): number {
  const n = a.findIndex((key, k) => !same(key, b[k]))
  const k = n < 0 ? a.length : n
  if (k === 0) return -Infinity
  const [one, other] = [a[k], b[k]]
  // where only the way out of a key differs, all is the same up to it
  if (one && other && same(one.slice(0, 2), other.slice(0, 2))) return one[0]
  const [from, , ease] = a[k - 1]!
  return ease === 'hold' ? Math.min(one?.[0] ?? Infinity, other?.[0] ?? Infinity) : from
}

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
