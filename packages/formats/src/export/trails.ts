import {
  rampTable,
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

/** The trails of a population at a frame, as files hold them. */
export interface TrailLines {
  /** Ids of the particles, one a line. */
  ids: Uint32Array
  counts: Uint32Array
  points: Float32Array
  /** Of each point: width in metres, linear RGB and opacity. */
  widths: Float32Array
  colours: Float32Array
  opacities: Float32Array
}

/** Goes through the frames, with the trails of a population at each. */
export async function* trailLines(
  shot: Shot,
  frames: Frames,
  id: string,
): AsyncGenerator<{ frame: number; lines: TrailLines }> {
  const { look, attributes } = shot.populations.find((one) => one.id === id)!
  const length = trailFrames(look.trail!, shot.frames.rate)
  const kept = new Map<number, PopulationFrame>()
  for (let frame = frames.first; frame <= frames.last; frame++) {
    kept.set(frame, populationIn(await frames.read(frame), id))
    kept.delete(frame - length - 1)
    yield { frame, lines: linesAt(look, attributes, frame, kept, length) }
  }
}

/** Of each point of trails the id of its particle. */
export function ownersIn({ ids, counts }: TrailLines): Uint32Array {
  const owners: number[] = []
  counts.forEach((count, line) => {
    for (let k = 0; k < count; k++) owners.push(ids[line]!)
  })
  return Uint32Array.from(owners)
}
/** From each point of a trail to the next, the numbers of both. */
export function edgesIn({ counts }: TrailLines): Uint32Array {
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
): TrailLines {
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
    widths: along.map((t) => trail.width + (trail.widthEnd - trail.width) * t),
    colours,
    opacities: along.map((t) => 1 + (trail.opacityEnd - 1) * t),
  }
}
