/**
 * Pairing with the least total travel, the sum of squared distances, which also keeps ways from crossing. Up to
 * 128 seekers it is exact. Beyond:
 *
 * 1. The seekers are moved onto the places by sliced optimal transport: along directions in turn both are
 *    sorted, and what is k-th among the seekers goes towards what is k-th among the places. Source: Bonneel,
 *    Rabin, Peyré, Pfister, "Sliced and Radon Wasserstein barycenters of measures" (2015).
 * 2. Moved seekers and places are split in halves, again and again, along the longest side: halves go to
 *    halves, until one goes to one.
 * 3. Pairs that lie side by side along a curve through space (Morton, "A computer oriented geodetic data base",
 *    1966), shifted anew each time, change their places: first any two when that makes their ways shorter,
 *    (x_a − x_b)·(y_a − y_b) < 0; then blocks of 32 as is best for them, in the fewer rounds the more there are.
 *
 * Tried, on 1000 seekers in a square and as many places in it, as travel above the least: halving alone a third;
 * sliced transport and exchanges of two 7 %, however many rounds; with blocks under 1 %.
 */
import { cosine, sine } from '../math/functions.ts'
import { randoms, STREAM } from '../math/random.ts'
import { exactPairing } from './exact.ts'
import { orderOfWords, roughOrderOf } from './sort.ts'

const EXACT = 128
/** Times three directions at right angles. */
const TURNS = 10
const EXCHANGES = 8
/** How many that follow along the curve are tried. */
const ALONG = 6
const BLOCK = 32
const MOST_ROUNDS = 24
/** Seekers times rounds of blocks: about a second. */
const AFFORDED = 100_000

/**
 * @param from and to x, y, z each, as many of both
 * @returns the place of each seeker, every place once
 */
export function leastTravel(from: Float32Array, to: Float32Array, seed: number): Uint32Array {
  const count = from.length / 3
  if (count <= EXACT) return exactPairing(from, to)
  const place = halve(slide(from, to, seed), to)
  const shift = (turn: number): number[] => randoms(seed, turn, STREAM.pairing, 1).slice(0, 3)
  let turn = 0
  for (; turn < EXCHANGES; turn++) inTurn(from, to, place, shift(turn), turn, exchangeNear)
  const rounds = Math.min(MOST_ROUNDS, Math.floor(AFFORDED / count))
  for (; turn < EXCHANGES + rounds; turn++) inTurn(from, to, place, shift(turn), turn, exchangeBlocks)
  return place
}

/** Three directions at right angles, at random. */
function turned(seed: number, turn: number): number[][] {
  const [a, b, c] = randoms(seed, turn, STREAM.pairing)
  const [height, round, roll] = [2 * a - 1, 2 * Math.PI * b, 2 * Math.PI * c]
  const out = Math.sqrt(1 - height * height)
  const w = [out * cosine(round), height, out * sine(round)]
  const u = [-sine(round), 0, cosine(round)]
  const v = [w[1]! * u[2]! - w[2]! * u[1]!, w[2]! * u[0]! - w[0]! * u[2]!, w[0]! * u[1]! - w[1]! * u[0]!]
  const [s, k] = [sine(roll), cosine(roll)]
  return [[0, 1, 2].map((i) => u[i]! * k + v[i]! * s), [0, 1, 2].map((i) => v[i]! * k - u[i]! * s), w]
}

function along(points: Float32Array, d: number[]): Float32Array {
  const out = new Float32Array(points.length / 3)
  const [x, y, z] = d as [number, number, number]
  for (let i = 0; i < out.length; i++)
    out[i] = points[i * 3]! * x + points[i * 3 + 1]! * y + points[i * 3 + 2]! * z
  return out
}

function slide(from: Float32Array, to: Float32Array, seed: number): Float32Array {
  const count = from.length / 3
  const moved = from.slice()
  for (let turn = 0; turn < TURNS; turn++) {
    const axes = turned(seed, turn)
    const steps = axes.map((axis) => {
      const [x, y] = [along(moved, axis), along(to, axis)]
      const [a, b] = [roughOrderOf(x), roughOrderOf(y)]
      const step = new Float32Array(count)
      for (let k = 0; k < count; k++) step[a[k]!] = y[b[k]!]! - x[a[k]!]!
      return step
    })
    for (let i = 0; i < count; i++) {
      for (let axis = 0; axis < 3; axis++) {
        let way = 0
        for (let k = 0; k < 3; k++) way += steps[k]![i]! * axes[k]![axis]!
        moved[i * 3 + axis]! += way
      }
    }
  }
  return moved
}

function halve(from: Float32Array, to: Float32Array): Uint32Array {
  const count = from.length / 3
  const a = Uint32Array.from({ length: count }, (_, i) => i)
  const b = a.slice()
  const split = (start: number, end: number): void => {
    if (end - start < 2) return
    const axis = longestSide(to, b, start, end)
    const middle = (start + end) >> 1
    select(from, a, axis, start, end, middle)
    select(to, b, axis, start, end, middle)
    split(start, middle)
    split(middle, end)
  }
  split(0, count)
  const out = new Uint32Array(count)
  for (let k = 0; k < count; k++) out[a[k]!] = b[k]!
  return out
}

function longestSide(points: Float32Array, order: Uint32Array, start: number, end: number): number {
  let best = 0
  let widest = -1
  for (let axis = 0; axis < 3; axis++) {
    let low = Infinity
    let high = -Infinity
    for (let k = start; k < end; k++) {
      const x = points[order[k]! * 3 + axis]!
      if (x < low) low = x
      if (x > high) high = x
    }
    if (high - low > widest) {
      widest = high - low
      best = axis
    }
  }
  return best
}

/** Brings the k-th of start…end, by coordinate and then by number, to its place (Hoare's selection). */
function select(
  points: Float32Array,
  order: Uint32Array,
  axis: number,
  start: number,
  end: number,
  k: number,
): void {
  let low = start
  let high = end - 1
  while (low < high) {
    const pivot = order[(low + high) >> 1]!
    const value = points[pivot * 3 + axis]!
    const less = (i: number): boolean => {
      const x = points[i * 3 + axis]!
      return x < value || (x === value && i < pivot)
    }
    const more = (i: number): boolean => {
      const x = points[i * 3 + axis]!
      return x > value || (x === value && i > pivot)
    }
    let i = low
    let j = high
    while (i <= j) {
      while (less(order[i]!)) i++
      while (more(order[j]!)) j--
      if (i > j) break
      const swapped = order[i]!
      order[i] = order[j]!
      order[j] = swapped
      i++
      j--
    }
    if (k <= j) high = j
    else if (k >= i) low = i
    else return
  }
}

/** Where points stand along a curve through all space; `shift` (0–1 each) moves its cells. */
function alongCurve(points: Float32Array, shift: number[]): Uint32Array {
  const count = points.length / 3
  const low = [Infinity, Infinity, Infinity]
  let size = 0
  for (let axis = 0; axis < 3; axis++) {
    let high = -Infinity
    for (let i = axis; i < points.length; i += 3) {
      low[axis] = Math.min(low[axis]!, points[i]!)
      high = Math.max(high, points[i]!)
    }
    size = Math.max(size, high - low[axis]!)
  }
  const scale = 511 / (size || 1)
  const keys = new Uint32Array(count)
  for (let i = 0; i < count; i++) {
    let key = 0
    for (let axis = 0; axis < 3; axis++)
      key |= spread((points[i * 3 + axis]! - low[axis]!) * scale + 511 * shift[axis]!) << axis
    keys[i] = key >>> 0
  }
  return orderOfWords(keys)
}

/** The ten bits of a number, two apart. */
function spread(x: number): number {
  let bits = x & 1023
  bits = (bits | (bits << 16)) & 0x030000ff
  bits = (bits | (bits << 8)) & 0x0300f00f
  bits = (bits | (bits << 4)) & 0x030c30c3
  return (bits | (bits << 2)) & 0x09249249
}

/**
 * Pairs in the order of a curve through the seekers or, in turn, through the places. `exchange` gets their
 * seekers, places and numbers side by side, which spares the cache, and changes them.
 */
function inTurn(
  from: Float32Array,
  to: Float32Array,
  place: Uint32Array,
  shift: number[],
  turn: number,
  exchange: (a: Float32Array, b: Float32Array, places: Uint32Array) => void,
): void {
  const count = place.length
  let order = alongCurve(turn % 2 === 0 ? from : to, shift)
  if (turn % 2 === 1) {
    const seekerOf = new Uint32Array(count)
    for (let i = 0; i < count; i++) seekerOf[place[i]!] = i
    order = order.map((p) => seekerOf[p]!)
  }
  const places = order.map((i) => place[i]!)
  exchange(gathered(from, order), gathered(to, places), places)
  for (let k = 0; k < count; k++) place[order[k]!] = places[k]!
}

function gathered(points: Float32Array, order: Uint32Array): Float32Array {
  const out = new Float32Array(order.length * 3)
  for (let k = 0; k < order.length; k++) {
    const i = order[k]! * 3
    out[k * 3] = points[i]!
    out[k * 3 + 1] = points[i + 1]!
    out[k * 3 + 2] = points[i + 2]!
  }
  return out
}

/** 2-opt of each pair with the few that follow it. */
function exchangeNear(a: Float32Array, b: Float32Array, places: Uint32Array): void {
  const count = places.length
  for (let k = 0; k < count; k++) {
    for (let n = k + 1; n <= k + ALONG && n < count; n++) {
      const [p, q] = [k * 3, n * 3]
      const gain =
        (a[p]! - a[q]!) * (b[p]! - b[q]!) +
        (a[p + 1]! - a[q + 1]!) * (b[p + 1]! - b[q + 1]!) +
        (a[p + 2]! - a[q + 2]!) * (b[p + 2]! - b[q + 2]!)
      if (gain >= 0) continue
      for (let axis = 0; axis < 3; axis++) {
        const moved = b[p + axis]!
        b[p + axis] = b[q + axis]!
        b[q + axis] = moved
      }
      const swapped = places[k]!
      places[k] = places[n]!
      places[n] = swapped
    }
  }
}

/** The best exchange among those of a block, block by block. */
function exchangeBlocks(a: Float32Array, b: Float32Array, places: Uint32Array): void {
  for (let start = 0; start < places.length; start += BLOCK) {
    const end = Math.min(places.length, start + BLOCK)
    const best = exactPairing(a.subarray(start * 3, end * 3), b.subarray(start * 3, end * 3))
    const old = places.slice(start, end)
    for (let k = 0; k < best.length; k++) places[start + k] = old[best[k]!]!
  }
}
