/** Closes the holes of open meshes, as scans have them below, so that they can be broken and cut. */
import earcut from 'earcut'
import type { Mesh } from './mesh.ts'
import { add, cross, dot, subtract, unit, vectorOf, type Vector } from '../math/vector.ts'

/**
 * A mesh with its holes closed: each by the polygon of its rim, laid flat and cut up (earcut), or by a fan about its middle where that would
 * touch other edges of the mesh. Its own triangles come first. Null where a rim meets itself.
 * Source: any triangulation of the rims closes it, e.g. Liepa, "Filling holes in meshes" (2003), first step.
 */
export function withLids(mesh: Mesh): Pick<Mesh, 'positions' | 'triangles'> | null {
  const rims = rimsOf(mesh)
  if (!rims) return null
  const edges = new Set<string>()
  mesh.triangles.forEach((a, c) => edges.add(`${a} ${mesh.triangles[c % 3 === 2 ? c - 2 : c + 1]!}`))
  const positions = [...mesh.positions]
  const triangles = [...mesh.triangles]
  for (const rim of rims) {
    const lid = flatLid(mesh, rim)
    const inside = lid.map((a, c): [number, number] => [a, lid[c % 3 === 2 ? c - 2 : c + 1]!])
    if (!inside.some(([a, b]) => edges.has(`${a} ${b}`))) triangles.push(...lid)
    else {
      const middle = positions.length / 3
      for (let axis = 0; axis < 3; axis++)
        positions.push(rim.reduce((sum, v) => sum + mesh.positions[v * 3 + axis]!, 0) / rim.length)
      rim.forEach((v, k) => triangles.push(v, rim[(k + 1) % rim.length]!, middle))
    }
  }
  return { positions: Float32Array.from(positions), triangles: Uint32Array.from(triangles) }
}

/** Vertices around each hole, in the direction in which a lid goes round; null where a rim meets itself. */
function rimsOf({ triangles }: Mesh): number[][] | null {
  const ways = new Map<string, [from: number, to: number]>()
  for (let c = 0; c < triangles.length; c++) {
    const [a, b] = [triangles[c]!, triangles[c % 3 === 2 ? c - 2 : c + 1]!]
    if (!ways.delete(`${b} ${a}`)) ways.set(`${a} ${b}`, [a, b])
  }
  // a lid goes the other way along an open edge
  const next = new Map<number, number>()
  for (const [a, b] of ways.values()) {
    if (next.has(b)) return null
    next.set(b, a)
  }
  const rims: number[][] = []
  while (next.size > 0) {
    const rim: number[] = []
    for (let at = next.keys().next().value!; next.has(at);) {
      rim.push(at)
      const to = next.get(at)!
      next.delete(at)
      at = to
    }
    rims.push(rim)
  }
  return rims
}

/** Triangles over a rim. */
function flatLid({ positions }: Mesh, rim: number[]): number[] {
  const corners = rim.map((v) => vectorOf(positions, v))
  let normal: Vector = [0, 0, 0]
  corners.forEach((p, k) => {
    const [a, b] = [subtract(p, corners[0]!), subtract(corners[(k + 1) % rim.length]!, corners[0]!)]
    normal = add(normal, cross(a, b))
  })
  const n = unit(normal)
  const u = unit(cross(n, Math.abs(n[0]) < 0.6 ? [1, 0, 0] : [0, 1, 0]))
  const v = cross(n, u)
  const flat = corners.flatMap((p) => [dot(p, u), dot(p, v)])
  const cut = earcut(flat)
  const out: number[] = []
  for (let c = 0; c < cut.length; c += 3) {
    const [a, b, d] = [cut[c]!, cut[c + 1]!, cut[c + 2]!]
    const side = dot(n, cross(subtract(corners[b]!, corners[a]!), subtract(corners[d]!, corners[a]!)))
    // all of them face the way that the rim goes round
    out.push(...(side < 0 ? [a, d, b] : [a, b, d]).map((k) => rim[k]!))
  }
  return out
}
