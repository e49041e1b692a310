import type { Mesh } from '../geometry/mesh.ts'
import { anchored } from '../geometry/weights.ts'
import type { Points } from './birth.ts'

/** Candidates for each point that stays. The paper takes five; the fifth adds little. */
export const CANDIDATES = 4
/** The paper's β; its γ of 1.5 is written out below. */
const BETA = 0.65

/** What is kept of a mesh: the last few sets of points. */
const known = new WeakMap<Mesh, { key: string; points: Points }[]>()
const KNOWN = 4

/**
 * `count` points that lie as far apart as can be, out of CANDIDATES times as many: those that are most crowded are
 * taken out, again and again. A candidate's weight is Σ (1 − d/2r)^8 over the others within
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
  const kept = known.get(mesh) ?? []
  const found = kept.find((one) => one.key === key)
  if (found) return found.points
  const all = candidates(count * CANDIDATES)
  const places = anchored({ positions: sized, triangles: mesh.triangles }, all.triangles, all.weights)
  const stay = eliminate(places, count, area)
  const points = {
    triangles: stay.map((i) => all.triangles[i]!),
    weights: Float32Array.from({ length: count * 2 }, (_, k) => all.weights[stay[k >> 1]! * 2 + (k & 1)]!),
  }
  known.set(mesh, [{ key, points }, ...kept].slice(0, KNOWN))
  return points
}

/**
 * Indices of the `count` places that stay, in their order. The paper takes out one place after the other, by a heap.
 * Here all go at once that are the most crowded within 2r of themselves and among the most crowded tenth of all: they
 * do not touch one another's weights, so it is the same but for the order, and with lists of neighbours about five times as fast at 200,000 places.
 */
function eliminate(places: Float32Array, count: number, area: number): Uint32Array {
  const all = places.length / 3
  const widest = Math.sqrt(area / (2 * Math.sqrt(3) * Math.max(1, count)))
  const ratio = count / all
  const nearest = widest * (1 - ratio * Math.sqrt(ratio)) * BETA
  const { order, first, near, sorted } = nearIn(places, 2 * widest)
  const weightOf = (i: number, j: number): number => {
    const d = Math.max(distance(sorted, i, j), 2 * nearest)
    const t = Math.max(0, 1 - d / (2 * widest))
    const [t2, t4] = [t * t, t * t * t * t]
    return t2 === 0 ? 0 : t4 * t4
  }
  const weights = new Float64Array(all)
  const gone = new Uint8Array(all)
  for (let i = 0; i < all; i++)
    for (let k = first[i]!; k < first[i + 1]!; k++) weights[i]! += weightOf(i, near[k]!)
  const isMost = (i: number): boolean => {
    for (let k = first[i]!; k < first[i + 1]!; k++) {
      const j = near[k]!
      if (!gone[j] && (weights[j]! > weights[i]! || (weights[j] === weights[i] && j < i))) return false
    }
    return true
  }
  for (let left = all; left > count;) {
    const least = crowdedTenth(weights, gone, left)
    let out: number[] = []
    for (let i = 0; i < all; i++) if (!gone[i] && weights[i]! >= least && isMost(i)) out.push(i)
    if (out.length > left - count)
      out = out.sort((i, j) => weights[j]! - weights[i]! || i - j).slice(0, left - count)
    for (const i of out) {
      gone[i] = 1
      for (let k = first[i]!; k < first[i + 1]!; k++) weights[near[k]!]! -= weightOf(i, near[k]!)
    }
    left -= out.length
  }
  return order.filter((_, i) => !gone[i]).sort()
}

function distance(p: Float32Array, i: number, j: number): number {
  const [dx, dy, dz] = [p[j * 3]! - p[i * 3]!, p[j * 3 + 1]! - p[i * 3 + 1]!, p[j * 3 + 2]! - p[i * 3 + 2]!]
  return Math.sqrt(dx * dx + dy * dy + dz * dz)
}

/** A weight that about a tenth of those that are left reach. */
function crowdedTenth(weights: Float64Array, gone: Uint8Array, left: number): number {
  let most = 0
  for (let i = 0; i < weights.length; i++) if (!gone[i] && weights[i]! > most) most = weights[i]!
  // no weight is left, but for rounding: any may go
  if (most === 0) return -Infinity
  const bins = new Uint32Array(1024)
  const scale = 1023 / most
  for (let i = 0; i < weights.length; i++)
    if (!gone[i] && weights[i]! >= 0) bins[Math.floor(weights[i]! * scale)]!++
  let bin = 1023
  for (let above = 0; bin > 0; bin--) if ((above += bins[bin]!) >= left / 10) break
  // the most crowded always reach it
  return Math.min(most, bin / scale)
}

/**
 * Places sorted so that neighbours lie side by side: `order` gives their first numbers, and near[first[i]…] who lies
 * within `reach` of the i-th. Cells in a row along x have buckets in a row.
 */
function nearIn(places: Float32Array, reach: number) {
  const all = places.length / 3
  let buckets = 64
  while (buckets < all) buckets *= 2
  const cell = (x: number): number => Math.floor(x / reach)
  const bucket = (x: number, y: number, z: number): number => {
    const h = Math.imul(y, 0x297a2d39) ^ Math.imul(z, 0x1b56c4e9)
    return ((h ^ (h >>> 15)) + x) & (buckets - 1)
  }
  const keys = Uint32Array.from({ length: all }, (_, i) =>
    bucket(cell(places[i * 3]!), cell(places[i * 3 + 1]!), cell(places[i * 3 + 2]!)),
  )
  const start = new Uint32Array(buckets + 1)
  for (const key of keys) start[key + 1]!++
  for (let b = 0; b < buckets; b++) start[b + 1]! += start[b]!
  const next = start.slice()
  const order = new Uint32Array(all)
  for (let i = 0; i < all; i++) order[next[keys[i]!]!++] = i
  const sorted = new Float32Array(all * 3)
  order.forEach((from, i) => sorted.set(places.subarray(from * 3, from * 3 + 3), i * 3))

  const first = new Uint32Array(all + 1)
  let near = new Uint32Array(all * 24)
  for (let i = 0, found = 0; i < all; i++) {
    const [x, y, z] = [cell(sorted[i * 3]!), cell(sorted[i * 3 + 1]!), cell(sorted[i * 3 + 2]!)]
    for (let row = 0; row < 9; row++) {
      const [cy, cz] = [y + (row % 3) - 1, z + Math.floor(row / 3) - 1]
      for (let k = 0; k < 3; k++) {
        const b = bucket(x + k - 1, cy, cz)
        for (let j = start[b]!; j < start[b + 1]!; j++) {
          if (distance(sorted, i, j) >= reach || j === i) continue
          // another row may share the bucket
          if (cell(sorted[j * 3]!) !== x + k - 1 || cell(sorted[j * 3 + 1]!) !== cy) continue
          if (cell(sorted[j * 3 + 2]!) !== cz) continue
          if (found === near.length) {
            const wider = new Uint32Array(near.length * 2)
            wider.set(near)
            near = wider
          }
          near[found++] = j
        }
      }
    }
    first[i + 1] = found
  }
  return { order, sorted, first, near }
}
