/** Threads: lines between the particles of a frame, of which nobody has to remember anything. */
import type { Threads } from '../document/types.ts'
import { gatherCrowd } from '../geometry/crowd.ts'
import type { Vector } from '../math/vector.ts'

/** What threads read of a frame: who is where, ids in rising order. */
export interface ThreadFrame {
  ids: ArrayLike<number>
  /** x, y, z in metres. */
  positions: ArrayLike<number>
}
/** With whose they are, and how old, in frames. */
export interface ThreadedFrame extends ThreadFrame {
  parents: ArrayLike<number> | null
  /** The numbers of the populations that those are of, where there are several. */
  parentPopulations?: ArrayLike<number> | null
  frames: ArrayLike<number> | null
}

/** A population that bears. */
export interface Bearer extends ThreadFrame {
  /** In the order of the shot. */
  number: number
}

/** Most lines of a frame; of more those of the first particles are drawn. */
const MOST = 500_000

/**
 * The lines of a frame.
 * @param bearers the frames of the populations that bore them, with their numbers in the shot
 * @returns of each line the place of its particle in the frame, and both its ends: from the particle on, six numbers
 */
export function threadsOf(
  now: ThreadedFrame,
  bearers: Bearer[],
  threads: Threads,
): { particles: Uint32Array; ends: Float32Array } {
  const particles: number[] = []
  const ends: number[] = []
  const reach = threads.reach ** 2
  const join = (i: number, to: ThreadFrame, k: number): void => {
    if (particles.length === MOST || squared(now, i, to, k) > reach) return
    particles.push(i)
    ends.push(...placeIn(now, i), ...placeIn(to, k))
  }
  if (threads.join === 'parent') withParents(now, bearers, threads.frames, join)
  else if (threads.join === 'order') for (let i = 1; i < now.ids.length; i++) join(i, now, i - 1)
  else withNeighbours(now, threads, join)
  return { particles: Uint32Array.from(particles), ends: Float32Array.from(ends) }
}

type Join = (i: number, to: ThreadFrame, k: number) => void

const placeIn = ({ positions }: ThreadFrame, i: number): number[] =>
  [0, 1, 2].map((k) => positions[i * 3 + k]!)

function squared(one: ThreadFrame, i: number, other: ThreadFrame, k: number): number {
  let sum = 0
  for (let axis = 0; axis < 3; axis++)
    sum += (one.positions[i * 3 + axis]! - other.positions[k * 3 + axis]!) ** 2
  return sum
}

function withParents(now: ThreadedFrame, bearers: Bearer[], frames: number, join: Join): void {
  const { parents, parentPopulations: of, frames: ages } = now
  if (!parents) return
  const placesIn = bearers.map(({ ids }) => new Map(Array.from(ids, (id, k) => [id, k])))
  for (let i = 0; i < now.ids.length; i++) {
    if (ages && ages[i]! > frames) continue
    for (const [n, places] of placesIn.entries()) {
      if (of && of[i] !== bearers[n]!.number) continue
      const k = places.get(parents[i]!)
      if (k !== undefined) join(i, bearers[n]!, k)
    }
  }
}

/** Each with the nearest in its reach, of two that want one another once. Cells are as wide as the reach. */
function withNeighbours(now: ThreadedFrame, { reach, most }: Threads, join: Join): void {
  const count = now.ids.length
  const crowd = gatherCrowd(now.positions, reach)
  const chosen: Set<number>[] = []
  for (let i = 0; i < count; i++) {
    const [x, y, z] = placeIn(now, i) as Vector
    const near: [number, number][] = []
    const found = crowd.findNear(x, y, z)
    for (const k of crowd.near.subarray(0, found)) {
      const d = k === i ? Infinity : squared(now, i, now, k)
      if (d <= reach * reach) near.push([d, k])
    }
    near.sort((one, other) => one[0] - other[0] || one[1] - other[1])
    chosen.push(new Set(near.slice(0, most).map(([, k]) => k)))
  }
  chosen.forEach((own, i) => {
    for (const k of own) if (i < k || !chosen[k]!.has(i)) join(i, now, k)
  })
}
