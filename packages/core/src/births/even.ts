import { layouts, scopeOf, type Machine } from '@tangle/kernels'
import type { Mesh } from '../geometry/mesh.ts'
import { anchored } from '../geometry/weights.ts'
import { buildGrid } from '../state/neighbours.ts'
import type { Points } from './birth.ts'

/** Candidates for each point that stays. The paper takes five; the fifth adds little. */
export const CANDIDATES = 4
/** The paper's β; its γ of 1.5 is written out. */
const BETA = 0.65

/** What is kept of a mesh: the last few sets of points. */
const known = new WeakMap<Mesh, { key: string; points: Points }[]>()
const KNOWN = 4

/**
 * `count` points that lie as far apart as can be, out of CANDIDATES times as many: those that are most crowded are
 * taken out, again and again (assembly/evenScatter.ts).
 * Source: Yuksel, "Sample elimination for generating Poisson disk sample sets" (2015).
 * @param area m² of the surface, positions in world size
 */
export function evenPoints(
  machine: Machine,
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
  const stay = eliminate(machine, places, count, area)
  const points = {
    triangles: stay.map((i) => all.triangles[i]!),
    weights: Float32Array.from({ length: count * 2 }, (_, k) => all.weights[stay[k >> 1]! * 2 + (k & 1)]!),
  }
  known.set(mesh, [{ key, points }, ...kept].slice(0, KNOWN))
  return points
}

/** Indices of the `count` places that stay, ascending. */
function eliminate(machine: Machine, places: Float32Array, count: number, area: number): Uint32Array {
  const all = places.length / 3
  const heap = scopeOf(machine.heap)
  const [position, radius, counts] = [all * 12, all * 4, all * 4].map((bytes) => heap.allocate(bytes)) as [number, number, number] // prettier-ignore
  heap.f32(position, all * 3).set(places)
  heap.f32(radius, all).fill(0)
  const widest = Math.sqrt(area / (2 * Math.sqrt(3) * Math.max(1, count)))
  const share = count / all
  const [reach, nearest] = [2 * widest, 2 * widest * (1 - share * Math.sqrt(share)) * BETA]
  const grid = buildGrid(
    machine,
    { count: all, position, radius, velocity: position },
    reach,
    layouts.MOST_NEIGHBOURS,
  )
  const cells = grid.at
  machine.run('countNear', all, { cells, reach, counts })
  const [first, next] = [0, 1].map(() => heap.allocate((all + 1) * 4)) as [number, number]
  const near = heap.allocate(4 * machine.call('firstsOf', { count: all, counts, first, next }))
  machine.run('listNear', all, { cells, reach, first, near })
  const [weights, left, marks, bins] = [all * 8, all * 4, all * 4, 4096].map((bytes) => heap.allocate(bytes)) as [number, number, number, number] // prettier-ignore
  const among = { cells, first, near, reach, nearest, weights }
  machine.run('weighCrowds', all, among)
  heap.u32(left, all).forEach((_, e, entries) => (entries[e] = e))
  for (let n = all; n > count;) {
    const least = machine.call('crowdedTenth', { count: n, left, weights, bins })
    machine.run('markCrowded', n, { left, weights, least, first, near, marks })
    keepMarks(heap.u32(marks, n), n - count, heap.u32(left, n), heap.f64(weights, all))
    n = machine.call('takeOutCrowded', { count: n, left, marks, ...among })
  }
  const order = heap.u32(heap.f64(cells, layouts.grid.SIZE)[layouts.grid.order]!, all)
  const stay = heap.u32(left, count).map((e) => order[e]!)
  grid.free()
  heap.release()
  return stay.sort()
}

/** Where more are marked than may go, the most crowded of them stay so. */
function keepMarks(marks: Uint32Array, most: number, left: Uint32Array, weights: Float64Array): void {
  let marked = 0
  for (const mark of marks) marked += mark
  if (marked <= most) return
  const weightOf = (n: number): number => weights[left[n]!]!
  const all = Array.from(marks.keys()).filter((n) => marks[n] === 1)
  for (const n of all.sort((a, b) => weightOf(b) - weightOf(a) || a - b).slice(most)) marks[n] = 0
}
