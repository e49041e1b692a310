/** Closed parts of a mesh made to face outward, with one skin each, as inside and outside, normals and volumes ask for. */
import { disjointSets } from '../math/disjointSets.ts'
import { areaVector, type Mesh } from './mesh.ts'

/** Parts that are looked at for what lies within them: the largest. */
const MOST_AROUND = 500
/** Below this share of the cube of its size a volume is none. */
const FLAT = 1e-7

/** A part whose every edge has two triangles, all of them the same way round after `turned` have been turned over. */
interface Part {
  triangles: number[]
  turned: Set<number>
  /** Six times its volume; below 0 it faces inward. */
  volume: number
  low: number[]
  high: number[]
}

/**
 * A closed part whose triangles look inward is turned over, and so are those of its triangles that look the other way than their neighbours;
 * one of two skins, as what is to be seen from both sides may have twice, is left out (`doubled` says how many triangles).
 * A part within another one may be a cavity: it keeps its way to that. Open parts and those that can't be made one way round stay as they
 * are. `turned` of the mesh says how many triangles were turned over.
 */
export function facingOutward(given: Mesh): Mesh {
  if (given.triangles.length === 0 || facesOutward(given)) return given
  const mesh = withOneSkin(given)
  const parts = closedParts(mesh)
  const largest = parts.toSorted((a, b) => sizeOf(b) - sizeOf(a)).slice(0, MOST_AROUND)
  const turned = new Set<number>()
  for (const part of parts) {
    const around = largest.filter((other) => other !== part && isWithin(part, other) && !isWithin(other, part)) // prettier-ignore
    const outermost = around.reduce<Part | null>((a, b) => (a && !isWithin(a, b) ? a : b), null) ?? part
    for (const t of part.triangles) if (part.turned.has(t) !== facesInward(outermost)) turned.add(t)
  }
  return turned.size === 0 ? mesh : turnSome(mesh, turned)
}

/** Without the triangles that have the same corners as another one of a part that is closed without them. */
function withOneSkin(mesh: Mesh): Mesh {
  const twin = twinsIn(mesh)
  const once = twin.map((other, t) => (other === t ? 1 : 0))
  if (once.every((is) => is === 1)) return mesh
  const numbers = Uint32Array.from(twin.keys()).filter((t) => once[t] === 1)
  const closed = new Set(closedParts(someOf(mesh, numbers)).flatMap((part) => part.triangles.map((t) => numbers[t]!))) // prettier-ignore
  const left = Uint32Array.from(twin.keys()).filter((t) => once[t] === 1 || !closed.has(twin[t]!))
  const doubled = twin.length - left.length
  return doubled === 0 ? mesh : { ...someOf(mesh, left), doubled }
}

/** Of each triangle the first one that has the same corners, itself if there is none before it. */
function twinsIn({ triangles }: Mesh): Uint32Array {
  const corners = Array.from({ length: triangles.length / 3 }, (_, t) => triangles.slice(t * 3, t * 3 + 3).sort()) // prettier-ignore
  const before = (a: number, b: number): number => {
    const [p, q] = [corners[a]!, corners[b]!]
    return p[0]! - q[0]! || p[1]! - q[1]! || p[2]! - q[2]!
  }
  const order = Uint32Array.from(corners.keys()).sort((a, b) => before(a, b) || a - b)
  const twin = Uint32Array.from(corners.keys())
  for (let k = 1; k < order.length; k++)
    if (before(order[k - 1]!, order[k]!) === 0) twin[order[k]!] = twin[order[k - 1]!]!
  return twin
}

/** A mesh with some of its triangles. */
function someOf(mesh: Mesh, numbers: Uint32Array): Mesh {
  const { triangles, uvs, materials } = mesh
  const pick = <T extends Uint32Array | Float32Array | Uint16Array>(all: T, width: number): T => {
    const out = all.slice(0, numbers.length * width) as T
    numbers.forEach((t, k) => out.set(all.subarray(t * width, (t + 1) * width), k * width))
    return out
  }
  return {
    ...mesh,
    triangles: pick(triangles, 3),
    ...(uvs && { uvs: pick(uvs, 6) }),
    ...(materials && { materials: pick(materials, 1) }),
  }
}

/** Whether there is nothing to do: no edge is run through twice the same way, and no part has a negative volume. */
function facesOutward({ positions, triangles }: Mesh): boolean {
  const count = positions.length / 3
  const ways = new Float64Array(triangles.length)
  const parts = disjointSets(count)
  triangles.forEach((v, c) => {
    const next = triangles[c % 3 === 2 ? c - 2 : c + 1]!
    ways[c] = v * count + next
    parts.join(v, next)
  })
  ways.sort()
  for (let k = 1; k < ways.length; k++) if (ways[k] === ways[k - 1]) return false
  const volumes = new Float64Array(count)
  for (let t = 0; t < triangles.length; t += 3) {
    const root = parts.rootOf(triangles[t]!)
    volumes[root] = volumes[root]! + sixfoldVolume(positions, triangles, t / 3, root)
  }
  return volumes.every((volume) => volume >= 0)
}

/** Of a triangle and a vertex of its part, about which sums lose little. */
function sixfoldVolume(p: Float32Array, triangles: Uint32Array, t: number, about: number): number {
  const at = (k: number, axis: number): number => p[triangles[t * 3 + k]! * 3 + axis]! - p[about * 3 + axis]!
  return (
    at(0, 0) * (at(1, 1) * at(2, 2) - at(1, 2) * at(2, 1)) +
    at(0, 1) * (at(1, 2) * at(2, 0) - at(1, 0) * at(2, 2)) +
    at(0, 2) * (at(1, 0) * at(2, 1) - at(1, 1) * at(2, 0))
  )
}

function closedParts(mesh: Mesh): Part[] {
  const { positions, triangles } = mesh
  const count = positions.length / 3
  const keys = Float64Array.from(triangles, (v, c) => {
    const next = triangles[c % 3 === 2 ? c - 2 : c + 1]!
    return Math.min(v, next) * count + Math.max(v, next)
  })
  const order = Uint32Array.from(keys, (_, c) => c).sort((a, b) => keys[a]! - keys[b]!)
  const beside = new Int32Array(triangles.length).fill(-1)
  const parts = disjointSets(triangles.length / 3)
  for (let e = 0; e < order.length;) {
    let next = e + 1
    while (next < order.length && keys[order[next]!] === keys[order[e]!]) next++
    if (next - e === 2) {
      const [a, b] = [order[e]!, order[e + 1]!]
      beside[a] = b
      beside[b] = a
      parts.join(Math.floor(a / 3), Math.floor(b / 3))
    }
    e = next
  }
  const own = new Map<number, number[]>()
  for (let t = 0; t < triangles.length / 3; t++) {
    const root = parts.rootOf(t)
    const all = own.get(root) ?? []
    all.push(t)
    own.set(root, all)
  }
  return [...own.values()].flatMap((all) => {
    const isClosed = all.every((t) => [0, 1, 2].every((k) => beside[t * 3 + k]! >= 0))
    const turned = isClosed ? againstTheRest(mesh, all, beside) : null
    return turned ? [partOf(mesh, all, turned)] : []
  })
}

/** The triangles of a part that look the other way than most of it, by area; null: it has but one side. */
function againstTheRest(mesh: Mesh, all: number[], beside: Int32Array): Set<number> | null {
  const { triangles } = mesh
  const way = new Map([[all[0]!, 1]])
  const waiting = [all[0]!]
  while (waiting.length > 0) {
    const t = waiting.pop()!
    for (let k = 0; k < 3; k++) {
      const other = beside[t * 3 + k]!
      const isSame = triangles[t * 3 + k] !== triangles[other]
      const found = isSame ? way.get(t)! : -way.get(t)!
      const its = Math.floor(other / 3)
      if (!way.has(its)) {
        way.set(its, found)
        waiting.push(its)
      } else if (way.get(its) !== found) return null
    }
  }
  let balance = 0
  for (const [t, sign] of way) {
    const [x, y, z] = areaVector(mesh, t)
    balance += sign * Math.sqrt(x * x + y * y + z * z)
  }
  const most = balance < 0 ? -1 : 1
  return new Set(all.filter((t) => way.get(t) !== most))
}

function partOf({ positions, triangles }: Mesh, all: number[], turned: Set<number>): Part {
  const low = [Infinity, Infinity, Infinity]
  const high = [-Infinity, -Infinity, -Infinity]
  let volume = 0
  for (const t of all) {
    volume += (turned.has(t) ? -1 : 1) * sixfoldVolume(positions, triangles, t, triangles[all[0]! * 3]!)
    for (let k = 0; k < 9; k++) {
      const x = positions[triangles[t * 3 + Math.floor(k / 3)]! * 3 + (k % 3)]!
      low[k % 3] = Math.min(low[k % 3]!, x)
      high[k % 3] = Math.max(high[k % 3]!, x)
    }
  }
  return { triangles: all, turned, volume, low, high }
}

const sizeOf = ({ low, high }: Part): number => Math.hypot(...low.map((x, axis) => high[axis]! - x))
const facesInward = (part: Part): boolean => part.volume < -FLAT * sizeOf(part) ** 3
const isWithin = (part: Part, other: Part): boolean =>
  part.low.every((x, axis) => x >= other.low[axis]! && part.high[axis]! <= other.high[axis]!)

function turnSome(mesh: Mesh, turned: Set<number>): Mesh {
  const from = (c: number): number => (turned.has(Math.floor(c / 3)) ? c - (c % 3) + [0, 2, 1][c % 3]! : c)
  const { triangles, uvs } = mesh
  return {
    ...mesh,
    triangles: triangles.map((_, c) => triangles[from(c)]!),
    ...(uvs && { uvs: uvs.map((_, k) => uvs[from(Math.floor(k / 2)) * 2 + (k % 2)]!) }),
    turned: turned.size,
  }
}
