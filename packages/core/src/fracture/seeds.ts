/** Where the cells of a fracture have their middles. */
import type { Machine } from '@tangle/kernels'
import { areaVector, meshFacts, type Mesh } from '../geometry/mesh.ts'
import { buildTree, freeTree, windingNumbers } from '../geometry/tree.ts'
import { onSphere } from '../math/gradients.ts'
import { randoms, STREAM } from '../math/random.ts'
import { add, scale, vectorOf, type Vector } from '../math/vector.ts'
import type { FractureSource } from '../document/types.ts'

/** Places drawn for each seed that are wanted where they are laid out evenly. */
const CANDIDATES = 12
const RELAXATIONS = 8
/** Where fewer of the places in a box are inside the mesh, it is thin: seeds lie on its surface. */
const THIN = 0.02
const MOST_DRAWS = 40

/** A mask at places in the mesh's own space; null where all is alike. */
export type DensityAt = ((points: Float32Array) => Float32Array) | null

/** The seeds of a mesh in world size, as its source says. */
export function fractureSeeds(
  machine: Machine,
  mesh: Mesh,
  { pieces, seeds, seed, spread, clusters, path }: FractureSource,
  density: DensityAt,
): Vector[] {
  const draw = (count: number): Vector[] => placesWithin(machine, mesh, count, seed, density)
  if (seeds === 'random' || pieces === 1) return draw(pieces)
  if (seeds === 'even') return relaxed(draw(pieces * CANDIDATES), pieces)
  const about = seeds === 'clusters' ? draw(clusters) : (path as Vector[])
  return Array.from({ length: pieces }, (_, k) => {
    const [where, away, height, round] = randoms(seed, k, STREAM.fracture, 1)
    const middle = seeds === 'line' ? alongPath(about, where) : about[Math.floor(where * about.length)]!
    // the density falls off as 1/r²: the finest pieces are in the middle
    return add(middle, scale(onSphere(height, round), spread * away))
  })
}

/** A point at a share of the length of a path. */
function alongPath(points: Vector[], share: number): Vector {
  const lengths = points
    .slice(1)
    .map((p, k) => Math.sqrt(p.reduce((sum, x, i) => sum + (x - points[k]![i]!) ** 2, 0)))
  let left = share * lengths.reduce((a, b) => a + b, 0)
  for (const [k, l] of lengths.entries()) {
    const t = l > 0 ? left / l : 0
    if (t <= 1) return points[k]!.map((x, i) => x + (points[k + 1]![i]! - x) * t) as Vector
    left -= l
  }
  return points.at(-1)!
}

/** Places inside a mesh, even by volume, or by area where it is too thin to be met; as a mask says. */
function placesWithin(
  machine: Machine,
  mesh: Mesh,
  count: number,
  seed: number,
  density: DensityAt,
): Vector[] {
  const found: Vector[] = []
  const tree = buildTree(machine, mesh)
  const { low, high } = meshFacts(mesh)
  const onSurface = surfaceSampler(mesh)
  let thin = false
  for (let turn = 0; turn < MOST_DRAWS && found.length < count; turn++) {
    const tries = Math.max(512, 2 * count)
    const drawn = Array.from({ length: tries }, (_, k) => randoms(seed, turn * tries + k, STREAM.fracture))
    const points = drawn.map(([a, b, c]): Vector =>
      thin
        ? onSurface(a, b, c)
        : ([a, b, c].map((r, axis) => low[axis]! + r * (high[axis]! - low[axis]!)) as Vector),
    )
    const flat = Float32Array.from(points.flat())
    const inside = thin ? null : windingNumbers(machine, tree, flat)
    const wanted = density?.(flat)
    const before = found.length
    let within = 0
    points.forEach((point, k) => {
      if (inside && inside[k]! < 0.5) return
      within++
      if (wanted && drawn[k]![3] >= wanted[k]!) return
      if (found.length < count) found.push(point)
    })
    if (turn === 0 && !thin && within < THIN * tries) {
      thin = true
      found.length = before
    }
  }
  freeTree(machine.heap, tree)
  return found
}

/** Draws places on the surface, even by area. */
function surfaceSampler(mesh: Mesh): (pick: number, u: number, v: number) => Vector {
  const areas = new Float64Array(mesh.triangles.length / 3)
  let sum = 0
  for (let t = 0; t < areas.length; t++) {
    const n = areaVector(mesh, t)
    areas[t] = sum += Math.sqrt(n[0] ** 2 + n[1] ** 2 + n[2] ** 2)
  }
  return (pick, u, v) => {
    let [from, to] = [0, areas.length - 1]
    while (from < to) {
      const middle = (from + to) >> 1
      if (areas[middle]! > pick * sum) to = middle
      else from = middle + 1
    }
    const [a, b, c] = [0, 1, 2].map((k) => vectorOf(mesh.positions, mesh.triangles[from * 3 + k]!)) as [Vector, Vector, Vector] // prettier-ignore
    const root = Math.sqrt(u)
    return [0, 1, 2].map((i) => a[i]! * (1 - root) + b[i]! * root * (1 - v) + c[i]! * root * v) as Vector
  }
}

/**
 * As far apart as can be: each seed moves to the middle of the places nearest to it, again and again.
 * Source: Lloyd, "Least squares quantization in PCM" (1982); places as a sample of the volume.
 */
function relaxed(places: Vector[], count: number): Vector[] {
  let seeds = Array.from({ length: Math.min(count, places.length) }, (_, k) => places[k * Math.floor(places.length / count)]!) // prettier-ignore
  for (let turn = 0; turn < RELAXATIONS; turn++) {
    const nearest = nearestOf(seeds)
    const sums = seeds.map(() => [0, 0, 0, 0])
    for (const place of places) {
      const sum = sums[nearest(place)]!
      for (let i = 0; i < 3; i++) sum[i] = sum[i]! + place[i]!
      sum[3]!++
    }
    seeds = seeds.map((seed, k) => {
      const [x, y, z, n] = sums[k] as [number, number, number, number]
      return n > 0 ? [x / n, y / n, z / n] : seed
    })
  }
  return seeds
}

/** Finds the nearest of some points, by a grid. */
export function nearestOf(points: Vector[]): (to: Vector) => number {
  const low = [0, 1, 2].map((i) => Math.min(...points.map((p) => p[i]!)))
  const high = [0, 1, 2].map((i) => Math.max(...points.map((p) => p[i]!)))
  const volume = [0, 1, 2].reduce((v, i) => v * Math.max(1e-9, high[i]! - low[i]!), 1)
  const span = Math.max(...[0, 1, 2].map((i) => high[i]! - low[i]!))
  const width = Math.max(Math.cbrt(volume / points.length), span / 128, 1e-12)
  const counts = [0, 1, 2].map((i) => Math.floor((high[i]! - low[i]!) / width) + 1) as Vector
  const cells: number[][] = Array.from({ length: counts[0] * counts[1] * counts[2] }, () => [])
  const cellOf = (p: Vector): Vector =>
    p.map((x, i) => Math.min(counts[i]! - 1, Math.max(0, Math.floor((x - low[i]!) / width)))) as Vector
  const indexOf = ([x, y, z]: Vector): number => x + counts[0] * (y + counts[1] * z)
  points.forEach((p, k) => cells[indexOf(cellOf(p))]!.push(k))
  const rings = Math.max(...counts)
  return (to) => {
    const [cx, cy, cz] = cellOf(to)
    let best = 0
    let least = Infinity
    for (let ring = 0; ring <= rings; ring++) {
      // what lies in farther rings is at least so far away
      if (least < Infinity && ring > 1 && ((ring - 1) * width) ** 2 > least) break
      for (let z = Math.max(0, cz - ring); z <= Math.min(counts[2] - 1, cz + ring); z++)
        for (let y = Math.max(0, cy - ring); y <= Math.min(counts[1] - 1, cy + ring); y++)
          for (let x = Math.max(0, cx - ring); x <= Math.min(counts[0] - 1, cx + ring); x++) {
            if (Math.max(Math.abs(x - cx), Math.abs(y - cy), Math.abs(z - cz)) !== ring) continue
            for (const k of cells[indexOf([x, y, z])]!) {
              const p = points[k]!
              const d = (p[0] - to[0]) ** 2 + (p[1] - to[1]) ** 2 + (p[2] - to[2]) ** 2
              if (d < least || (d === least && k < best)) [least, best] = [d, k]
            }
          }
    }
    return best
  }
}
