/** Links laid one after the other in paths, along which they are solved at once (assembly/linkPaths.ts). */

/** Two particles that are to be linked, by their numbers. */
export interface Pair {
  a: number
  b: number
}
/** Turned so that paths go from a to b; 1: it goes on where the one before it ends. */
export interface Laid extends Pair {
  joined: number
}

/** Of more than two links at a particle, two are taken to go on from one another where the angle is wider than this: cos. */
const STRAIGHT = -0.7

/**
 * The pairs in paths: through a particle that has two links, both go on from one another; of more those that lie straightest,
 * so that the lines of a grid become paths. None comes twice through a particle.
 * @param x places, 3 numbers a particle, of so many.
 */
export function inPaths(x: Float32Array, count: number, pairs: Pair[]): Laid[] {
  const next = continuations(x, count, pairs)
  const laid: Laid[] = []
  const done = new Uint8Array(pairs.length)
  /** The path in which a particle was last. */
  const lastPath = new Int32Array(count).fill(-1)
  let path = 0
  for (let start = 0; start < pairs.length;) {
    if (done[start]) {
      start++
      continue
    }
    path++
    let end = firstEnd(next, start, done)
    for (let joined = 0; ; joined = 1) {
      const link = end >> 1
      const [a, b] = end & 1 ? [pairs[link]!.b, pairs[link]!.a] : [pairs[link]!.a, pairs[link]!.b]
      if (joined === 0) lastPath[a] = path
      if (lastPath[b] === path) break
      lastPath[b] = path
      done[link] = 1
      laid.push({ a, b, joined })
      // out at the other end, and on
      const on = next[end ^ 1]!
      if (on < 0 || done[on >> 1]) break
      end = on
    }
  }
  return laid
}

/** Ends of links are numbered 2·link for a and 2·link + 1 for b. Back along a path, to the end at which it begins. */
function firstEnd(next: Int32Array, start: number, done: Uint8Array): number {
  let end = 2 * start
  for (let back = next[end]!; back >= 0 && back >> 1 !== start && !done[back >> 1]; back = next[end]!)
    end = back ^ 1
  return end
}

/** For each end of a link the end of another at the same particle from which the path goes on; −1: it ends there. */
function continuations(x: Float32Array, count: number, pairs: Pair[]): Int32Array {
  const next = new Int32Array(2 * pairs.length).fill(-1)
  const { firsts, ends } = endsAt(count, pairs)
  for (let i = 0; i < count; i++) {
    const here = ends.subarray(firsts[i]!, firsts[i + 1]!)
    if (here.length === 2) join(next, here[0]!, here[1]!)
    else if (here.length > 2) joinStraight(next, here, x, pairs)
  }
  return next
}
function join(next: Int32Array, one: number, other: number): void {
  next[one] = other
  next[other] = one
}

function endsAt(count: number, pairs: Pair[]): { firsts: Int32Array; ends: Int32Array } {
  const firsts = new Int32Array(count + 1)
  for (const { a, b } of pairs) {
    firsts[a + 1]!++
    firsts[b + 1]!++
  }
  for (let i = 0; i < count; i++) firsts[i + 1] = firsts[i + 1]! + firsts[i]!
  const at = firsts.slice()
  const ends = new Int32Array(2 * pairs.length)
  pairs.forEach(({ a, b }, n) => {
    ends[at[a]!++] = 2 * n
    ends[at[b]!++] = 2 * n + 1
  })
  return { firsts, ends }
}

/** Joins those of the ends at a particle that lie straightest, the straightest first. */
function joinStraight(next: Int32Array, here: Int32Array, x: Float32Array, pairs: Pair[]): void {
  const ways = Array.from(here, (end) => {
    const { a, b } = pairs[end >> 1]!
    const [from, to] = end & 1 ? [b, a] : [a, b]
    const way = [0, 1, 2].map((axis) => x[to * 3 + axis]! - x[from * 3 + axis]!)
    const length = Math.sqrt(way[0]! ** 2 + way[1]! ** 2 + way[2]! ** 2) || 1
    return way.map((one) => one / length) as [number, number, number]
  })
  const straight: [cosine: number, k: number, n: number][] = []
  for (let k = 0; k < here.length; k++) {
    const [u, v, w] = ways[k]!
    for (let n = k + 1; n < here.length; n++) {
      const cosine = u * ways[n]![0] + v * ways[n]![1] + w * ways[n]![2]
      if (cosine < STRAIGHT) straight.push([cosine, k, n])
    }
  }
  straight.sort((one, other) => one[0] - other[0] || one[1] - other[1] || one[2] - other[2])
  for (const [, k, n] of straight)
    if (next[here[k]!]! < 0 && next[here[n]!]! < 0) join(next, here[k]!, here[n]!)
}
