/** What looks draw as lines, as files hold it: the trails of particles and the threads between them. */
import {
  rampTable,
  threadsOf,
  trailFrames,
  trailsOf,
  type Look,
  type OwnAttribute,
  type PopulationFrame,
  type Shot,
} from '@tangle/core'
import type { CachedFrame } from '../frames/cachedFrame.ts'
import { coloursOf } from './colours.ts'
import type { Frames } from './kind.ts'
import { lengthsIn, type Space } from './space.ts'

/** The lines of a population at a frame. */
export interface Lines {
  /** Ids of the particles, one a line. */
  ids: Uint32Array
  counts: Uint32Array
  points: Float32Array
  /** Of each point: width, linear RGB and opacity. */
  widths: Float32Array
  colours: Float32Array
  opacities: Float32Array
}

/** The lines of one sort that a population is drawn with. */
export interface DrawnLines {
  id: string
  sort: 'trails' | 'threads'
  /** Goes through the frames, with the lines at each. */
  through(frames: Frames): AsyncGenerator<{ frame: number; lines: Lines }>
}

/** Everything of a shot that is drawn as lines. */
export const linesOf = (shot: Shot): DrawnLines[] =>
  shot.populations.flatMap(({ id, look }) => [
    ...(look.trail
      ? [{ id, sort: 'trails' as const, through: (frames: Frames) => trailLines(shot, frames, id) }]
      : []),
    ...(look.threads
      ? [{ id, sort: 'threads' as const, through: (frames: Frames) => threadLines(shot, frames, id) }]
      : []),
  ])

async function* trailLines(
  shot: Shot,
  frames: Frames,
  id: string,
): AsyncGenerator<{ frame: number; lines: Lines }> {
  const { look, attributes } = shot.populations.find((one) => one.id === id)!
  const length = trailFrames(look.trail!, shot.frames.rate)
  const kept = new Map<number, PopulationFrame>()
  for (let frame = frames.first; frame <= frames.last; frame++) {
    kept.set(frame, populationIn(await frames.read(frame), id))
    kept.delete(frame - length - 1)
    yield { frame, lines: linesAt(look, attributes, frame, kept, length, frames.space) }
  }
}

async function* threadLines(
  shot: Shot,
  frames: Frames,
  id: string,
): AsyncGenerator<{ frame: number; lines: Lines }> {
  const { births, look, attributes } = shot.populations.find((one) => one.id === id)!
  const threads = look.threads!
  const from = new Set(births.map((birth) => birth.from))
  const [reach, width] = lengthsIn(
    frames.space,
    Float32Array.of(threads.reach, threads.width),
  ) as unknown as [number, number]
  for (let frame = frames.first; frame <= frames.last; frame++) {
    const read = await frames.read(frame)
    const now = populationIn(read, id)
    const { rate } = shot.frames
    const threaded = {
      ...placesOf(now),
      parents: now.columns.parent ?? null,
      parentPopulations: now.columns.parentPopulation ?? null,
      frames: now.columns.age ? (now.columns.age as Float32Array).map((age) => age * rate) : null,
    }
    const bearers = read.populations
      .filter((one) => from.has(one.id))
      .map((one) => ({
        ...placesOf(one),
        number: shot.populations.findIndex(({ id: own }) => own === one.id),
      }))
    const { particles, ends } = threadsOf(threaded, bearers, { ...threads, reach })
    const own = coloursOf(look, now, attributes)
    const points = particles.length * 2
    const colours = new Float32Array(points * 3)
    for (let k = 0; k < points; k++) {
      const particle = particles[k >> 1]!
      colours.set(own.subarray(particle * 3, particle * 3 + 3), k * 3)
    }
    const lines: Lines = {
      ids: particles.map((i) => now.columns.id![i]!),
      counts: new Uint32Array(particles.length).fill(2),
      points: ends,
      widths: new Float32Array(points).fill(width),
      colours,
      opacities: new Float32Array(points).fill(threads.opacity),
    }
    yield { frame, lines }
  }
}

const placesOf = ({ columns }: PopulationFrame) => ({ ids: columns.id!, positions: columns.position! })

/** Of each point of lines the id of its particle. */
export function ownersIn({ ids, counts }: Lines): Uint32Array {
  const owners: number[] = []
  counts.forEach((count, line) => {
    for (let k = 0; k < count; k++) owners.push(ids[line]!)
  })
  return Uint32Array.from(owners)
}
/** From each point of a line to the next, the numbers of both. */
export function edgesIn({ counts }: Lines): Uint32Array {
  const edges: number[] = []
  let first = 0
  for (const count of counts) {
    for (let k = 0; k + 1 < count; k++) edges.push(first + k, first + k + 1)
    first += count
  }
  return Uint32Array.from(edges)
}

const populationIn = (frame: CachedFrame, id: string): PopulationFrame =>
  frame.populations.find((one) => one.id === id)!

function linesAt(
  look: Look,
  own: OwnAttribute[],
  frame: number,
  kept: Map<number, PopulationFrame>,
  length: number,
  space: Space,
): Lines {
  const trail = look.trail!
  const now = kept.get(frame)!
  const at = (time: number) => {
    const found = kept.get(time)
    return found && { ids: found.columns.id!, positions: found.columns.position! }
  }
  const { particles, counts, points, along } = trailsOf(frame, at, length, trail.step)
  const colour = coloursOf(look, now, own)
  const ramp = trail.colour === 'ramp' ? rampTable(trail.ramp) : null
  const colours = new Float32Array(along.length * 3)
  let point = 0
  particles.forEach((particle, line) => {
    for (let k = 0; k < counts[line]!; k++, point++) {
      const entry = Math.round(along[point]! * 255) * 3
      colours.set(
        ramp ? ramp.subarray(entry, entry + 3) : colour.subarray(particle * 3, particle * 3 + 3),
        point * 3,
      )
    }
  })
  return {
    ids: Uint32Array.from(particles, (i) => now.columns.id![i]!),
    counts,
    points,
    widths: lengthsIn(
      space,
      along.map((t) => trail.width + (trail.widthEnd - trail.width) * t),
    ),
    colours,
    opacities: along.map((t) => 1 + (trail.opacityEnd - 1) * t),
  }
}
