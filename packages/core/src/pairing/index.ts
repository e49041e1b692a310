/** Which seeker goes to which place. All are pure functions of positions, ids and a seed. */
import { dot, unit, type Vector } from '../math/vector.ts'
import { random, STREAM } from '../math/random.ts'
import { leastTravel } from './least.ts'
import { orderOf } from './sort.ts'

export const PAIRINGS = {
  random: 'at random',
  order: 'in order along a direction',
  nearest: 'nearest',
  uv: 'by the same UV',
  least: 'least total travel',
} as const
export type Pairing = keyof typeof PAIRINGS

/** Stands for no place. */
export const NO_PLACE = 0xffffffff

export interface PairingTask {
  /** x, y, z of each, metres in the world. */
  seekers: Float32Array
  places: Float32Array
  /** Of the seekers. */
  ids: Uint32Array
  seed: number
  direction: Vector
  /** More seekers than places: whether places are shared, or some go without. */
  share: boolean
}

/**
 * The place of each seeker, or NO_PLACE. More places than seekers: places are taken evenly from their list. More
 * seekers than places: `share` gives every place to as many, else each to one.
 */
export function pairUp(pairing: 'random' | 'order' | 'least', task: PairingTask): Uint32Array {
  const [seekers, places] = [task.ids.length, task.places.length / 3]
  if (seekers === 0 || places === 0) return new Uint32Array(seekers).fill(NO_PLACE)
  if (pairing === 'least') return remembered(task)
  const [inLine, onto] = pairing === 'order' ? alongDirection(task) : shuffled(task)
  const out = new Uint32Array(seekers)
  inLine.forEach((seeker, rank) => {
    const place = placeOfRank(rank, seekers, places, task.share)
    out[seeker] = place === NO_PLACE ? NO_PLACE : onto[place]!
  })
  return out
}

/** Of the rank-th of n seekers among m places: evenly spread over both. */
function placeOfRank(rank: number, n: number, m: number, share: boolean): number {
  const place = Math.floor((rank * m) / n)
  const next = Math.floor(((rank + 1) * m) / n)
  return share || next > place ? place : NO_PLACE
}

function alongDirection({ seekers, places, direction }: PairingTask): [Uint32Array, Uint32Array] {
  const d = unit(direction)
  const height = (points: Float32Array): Float32Array =>
    Float32Array.from({ length: points.length / 3 }, (_, i) =>
      dot(d, [points[i * 3]!, points[i * 3 + 1]!, points[i * 3 + 2]!]),
    )
  return [orderOf(height(seekers)), orderOf(height(places))]
}

function shuffled({ ids, places, seed }: PairingTask): [Uint32Array, Uint32Array] {
  const draws = (count: number, number: (i: number) => number, stream: number): Float32Array =>
    Float32Array.from({ length: count }, (_, i) => random(seed, number(i), stream))
  return [
    orderOf(draws(ids.length, (i) => ids[i]!, STREAM.pairing)),
    orderOf(draws(places.length / 3, (i) => i, STREAM.places)),
  ]
}

function least({ seekers, places, seed, share }: PairingTask): Uint32Array {
  const [n, m] = [seekers.length / 3, places.length / 3]
  const out = new Uint32Array(n).fill(NO_PLACE)
  // as many of both: places shared or left over, or seekers that go without, are chosen evenly from their lists
  const going = Uint32Array.from({ length: n }, (_, k) => k).filter(
    (k) => n <= m || placeOfRank(k, n, m, share) !== NO_PLACE,
  )
  const taken = going.map((_, k) => Math.floor((k * m) / going.length))
  const pick = (points: Float32Array, which: Uint32Array): Float32Array => {
    const picked = new Float32Array(which.length * 3)
    which.forEach((i, k) => picked.set(points.subarray(i * 3, i * 3 + 3), k * 3))
    return picked
  }
  const pairs = leastTravel(pick(seekers, going), pick(places, taken), seed)
  going.forEach((i, k) => (out[i] = taken[pairs[k]!]!))
  return out
}

/** The last few pairings that took long: the same shot is computed again and again while it is tuned. */
const known: { key: string; places: Uint32Array }[] = []
const KNOWN = 64
const LONG = 100

function remembered(task: PairingTask): Uint32Array {
  if (task.ids.length < LONG) return least(task)
  const key = `${task.seed} ${task.share} ${hashOf(task.seekers)} ${hashOf(task.places)}`
  const found = known.find((one) => one.key === key)
  if (found) return found.places
  const places = least(task)
  known.push({ key, places })
  if (known.length > KNOWN) known.shift()
  return places
}

/** Two FNV-1a hashes of 32 bits over the bits of the numbers. */
function hashOf(numbers: Float32Array): string {
  const words = new Uint32Array(numbers.buffer, numbers.byteOffset, numbers.length)
  let [a, b] = [0x811c9dc5, 0x9e3779b9]
  for (const word of words) {
    a = Math.imul(a ^ word, 0x01000193)
    b = Math.imul(b ^ (word >>> 7) ^ a, 0x85ebca6b)
  }
  return `${numbers.length} ${a >>> 0} ${b >>> 0}`
}
