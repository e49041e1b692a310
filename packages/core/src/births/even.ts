import type { Mesh } from '../geometry/mesh.ts'
import { anchored } from '../geometry/weights.ts'
import type { Points } from './kind.ts'

/** Candidates for each point that stays. The paper takes five; the fifth adds little. */
export const CANDIDATES = 4
/** The paper's β; its γ of 1.5 is written out below. */
const BETA = 0.65

/** What is kept of a mesh: the last set of points. */
const known = new WeakMap<Mesh, { key: string; points: Points }>()

/**
 * `count` points that lie as far apart as can be, out of CANDIDATES times as many: of all, the one that is
 * most crowded is taken out, again and again. A candidate's weight is Σ (1 − d/2r)^8 over the others within
 * 2r, r being the largest radius that `count` discs on that area can have.
 * Source: Yuksel, "Sample elimination for generating Poisson disk sample sets" (2015).
 * @param area m² of the surface, positions in world size
 */
export function evenPoints(
  mesh: Mesh,
  sized: Float32Array,
  area: number,
  count: number,
  key: string,
  candidates: (count: number) => Points,
): Points {
  const found = known.get(mesh)
  if (found?.key === key) return found.points
  const all = candidates(count * CANDIDATES)
  const places = anchored({ positions: sized, triangles: mesh.triangles }, all.triangles, all.weights)
  const stay = eliminate(places, count, area)
  const points = {
    triangles: stay.map((i) => all.triangles[i]!),
    weights: Float32Array.from({ length: count * 2 }, (_, k) => all.weights[stay[k >> 1]! * 2 + (k & 1)]!),
  }
  known.set(mesh, { key, points })
  return points
}

/** Indices of the `count` places that stay, in their order. */
function eliminate(places: Float32Array, count: number, area: number): Uint32Array {
  const all = places.length / 3
  const widest = Math.sqrt(area / (2 * Math.sqrt(3) * Math.max(1, count)))
  const ratio = count / all
  const nearest = widest * (1 - ratio * Math.sqrt(ratio)) * BETA
  const near = nearIn(places, 2 * widest)
  const weightOf = (squared: number): number => {
    const d = Math.max(Math.sqrt(squared), 2 * nearest)
    const t = Math.max(0, 1 - d / (2 * widest))
    const [t2, t4] = [t * t, t * t * t * t]
    return t2 === 0 ? 0 : t4 * t4
  }
  const weights = new Float64Array(all)
  for (let i = 0; i < all; i++) near(i, (_, squared) => (weights[i]! += weightOf(squared)))
  const heap = heapOf(weights)
  const gone = new Uint8Array(all)
  for (let left = all; left > count; left--) {
    const worst = heap.pop()
    gone[worst] = 1
    near(worst, (j, squared) => {
      if (gone[j]) return
      weights[j]! -= weightOf(squared)
      heap.sink(j)
    })
  }
  return Uint32Array.from({ length: all }, (_, i) => i).filter((i) => !gone[i])
}

/** A way to visit who lies within `reach` of a place. */
function nearIn(places: Float32Array, reach: number) {
  const all = places.length / 3
  let buckets = 1
  while (buckets < all) buckets *= 2
  const cell = (i: number, axis: number): number => Math.floor(places[i * 3 + axis]! / reach)
  const bucket = (x: number, y: number, z: number): number => {
    const h = Math.imul(x, 0x2c1b3c6d) ^ Math.imul(y, 0x297a2d39) ^ Math.imul(z, 0x1b56c4e9)
    return (h ^ (h >>> 15)) & (buckets - 1)
  }
  const first = new Int32Array(buckets).fill(-1)
  const next = new Int32Array(all)
  for (let i = all - 1; i >= 0; i--) {
    const b = bucket(cell(i, 0), cell(i, 1), cell(i, 2))
    next[i] = first[b]!
    first[b] = i
  }
  return (i: number, use: (j: number, squared: number) => void): void => {
    const [x, y, z] = [cell(i, 0), cell(i, 1), cell(i, 2)]
    for (let c = 0; c < 27; c++) {
      const [cx, cy, cz] = [x + (c % 3) - 1, y + (Math.floor(c / 3) % 3) - 1, z + Math.floor(c / 9) - 1]
      for (let j = first[bucket(cx, cy, cz)]!; j >= 0; j = next[j]!) {
        const squared =
          (places[j * 3]! - places[i * 3]!) ** 2 +
          (places[j * 3 + 1]! - places[i * 3 + 1]!) ** 2 +
          (places[j * 3 + 2]! - places[i * 3 + 2]!) ** 2
        if (j === i || squared >= reach * reach) continue
        // two cells may share a bucket
        if (cell(j, 0) === cx && cell(j, 1) === cy && cell(j, 2) === cz) use(j, squared)
      }
    }
  }
}

/** A heap of indices with the greatest weight, and then the least index, on top. */
function heapOf(weights: Float64Array) {
  const order = Uint32Array.from(weights, (_, i) => i)
  const at = order.slice()
  let size = order.length
  const before = (a: number, b: number): boolean =>
    weights[a]! > weights[b]! || (weights[a] === weights[b] && a < b)
  const sinkFrom = (start: number): void => {
    let k = start
    for (;;) {
      let child = 2 * k + 1
      if (child >= size) return
      if (child + 1 < size && before(order[child + 1]!, order[child]!)) child++
      if (!before(order[child]!, order[k]!)) return
      const [up, down] = [order[child]!, order[k]!]
      order[k] = up
      order[child] = down
      at[up] = k
      at[down] = child
      k = child
    }
  }
  for (let k = size >> 1; k >= 0; k--) sinkFrom(k)
  return {
    pop(): number {
      const top = order[0]!
      const last = order[--size]!
      order[0] = last
      at[last] = 0
      sinkFrom(0)
      return top
    },
    /** After the weight of i has fallen. */
    sink: (i: number): void => sinkFrom(at[i]!),
  }
}
