/**
 * A mesh cut by another: what is left of it, or what both share, closed again by faces of the one that cuts. Both may move and bend.
 * Computed on exact solids by manifold-3d, whose bytes are the same in every engine.
 */
import type { Manifold } from 'manifold-3d'
import { withLids } from '../geometry/lids.ts'
import { FLAT, manifoldModule, movableSolid, solidFrom, type MovableSolid } from '../geometry/manifold.ts'
import { areaVector, meshFacts, perMesh, turnedOver, type Mesh } from '../geometry/mesh.ts'
import { weightsIn } from '../geometry/weights.ts'
import { length, vectorOf, type Vector } from '../math/vector.ts'
import type { Cut } from '../document/types.ts'
import type { Body } from './body.ts'
import type { MeshFrame } from './clippedMesh.ts'

/** A cut mesh at a frame, in the world. */
export interface SolidCut {
  positions: Float32Array
  triangles: Uint32Array
  /** The triangle from which on they are faces of the cut: those before it are the mesh's own. */
  inner: number
  /** The triangle of the mesh, or of the one that cuts, on which each triangle lies. */
  sources: Uint32Array
  /** Volumes of the mesh, of what was cut off or away, and of this, m³. */
  volume: number
  left: number
}

type Surface = Pick<Mesh, 'positions' | 'triangles'>

/** How a mesh is closed: triangles over its holes, the vertices around each vertex that they add, and why it is no solid. */
interface Closing {
  lids: Uint32Array
  middles: number[][]
  fault: string | null
}

const closingOf = perMesh((mesh): Closing => {
  const { openEdges, holes, crowdedEdges } = meshFacts(mesh)
  const none = (fault: string): Closing => ({ lids: new Uint32Array(), middles: [], fault })
  if (mesh.triangles.length === 0) return none('it has no triangles')
  if (crowdedEdges > 0) return none(`${crowdedEdges} of its edges have more than two sides`)
  const closed = openEdges > 0 ? withLids(mesh) : mesh
  const open = `it is open: ${openEdges} open edges in ${holes} ${holes === 1 ? 'hole' : 'holes'}`
  if (!closed) return none(`${open}, whose rims meet themselves`)
  const lids = closed.triangles.slice(mesh.triangles.length)
  const count = mesh.positions.length / 3
  const middles: number[][] = []
  lids.forEach((v, c) => {
    if (v < count) return
    const t = c - (c % 3)
    const rim = (middles[v - count] ??= [])
    rim.push(...lids.subarray(t, t + 3).filter((one) => one !== v && !rim.includes(one)))
  })
  const volume = volumeOf(closed)
  const flat = Math.abs(volume) <= FLAT * meshFacts(mesh).area ** 1.5
  const inverted = volume < 0 ? 'it is inside out: turn its triangles round' : null
  return { lids, middles, fault: flat ? 'it is flat and has no volume' : inverted }
})

/** Why a mesh is no solid, in words; null where it is one. */
export const solidFault = (mesh: Mesh): string | null => closingOf(mesh).fault

/** Volume that triangles enclose, m³; below 0 inside out. */
export function volumeOf({ positions: p, triangles }: Surface): number {
  const [x, y, z] = vectorOf(p, triangles[0] ?? 0)
  let sum = 0
  for (let k = 0; k < triangles.length; k += 3) {
    const a = triangles[k]! * 3
    const b = triangles[k + 1]! * 3
    const c = triangles[k + 2]! * 3
    const ux = p[b]! - x
    const uy = p[b + 1]! - y
    const uz = p[b + 2]! - z
    const vx = p[c]! - x
    const vy = p[c + 1]! - y
    const vz = p[c + 2]! - z
    sum +=
      (p[a]! - x) * (uy * vz - uz * vy) +
      (p[a + 1]! - y) * (uz * vx - ux * vz) +
      (p[a + 2]! - z) * (ux * vy - uy * vx)
  }
  return sum / 6
}

/** A body at a frame, its holes closed, as seen from a place; turned outward where it is mirrored. */
function closedAt(body: Body, frame: number, from: Vector): Surface & { turned: boolean } {
  const { mesh } = body
  const { lids, middles } = closingOf(mesh)
  const positions = withMiddles(body.worldView(frame), middles, from)
  const triangles = new Uint32Array(mesh.triangles.length + lids.length)
  triangles.set(mesh.triangles)
  triangles.set(lids, mesh.triangles.length)
  const turned = volumeOf({ positions, triangles }) < 0
  return { positions, triangles: turned ? turnedOver(triangles) : triangles, turned }
}

/** Places as seen from another, and those in the middle of rims behind them. */
function withMiddles(points: Float32Array, middles: number[][], from: Vector): Float32Array {
  const positions = new Float32Array(points.length + middles.length * 3)
  for (let k = 0; k < points.length; k += 3) {
    positions[k] = points[k]! - from[0]
    positions[k + 1] = points[k + 1]! - from[1]
    positions[k + 2] = points[k + 2]! - from[2]
  }
  middles.forEach((rim, k) => {
    for (let axis = 0; axis < 3; axis++)
      positions[points.length + k * 3 + axis] =
        rim.reduce((sum, v) => sum + positions[v * 3 + axis]!, 0) / rim.length
  })
  return positions
}

/** Solids that are kept to be moved, those asked last; more would fill the library's memory. */
const KEPT = 4
const kept: { mesh: Mesh; turned: boolean; solid: MovableSolid | null }[] = []

/** A body at a frame as a solid, and the number by which it is known. @throws Error where it is none there */
function solidAt(
  { mesh }: Body,
  { positions, triangles, turned }: ReturnType<typeof closedAt>,
): { solid: Manifold; id: number } {
  const manifold = manifoldModule()
  let known = kept.find((one) => one.mesh === mesh && one.turned === turned)
  if (!known) {
    const rest = { positions: withMiddles(mesh.positions, closingOf(mesh).middles, [0, 0, 0]), triangles }
    known = { mesh, turned, solid: movableSolid(manifold, rest) }
    kept.push(known)
    if (kept.length > KEPT) kept.shift()!.solid?.delete()
  }
  const { solid } = known
  return solid ? { solid: solid.at(positions), id: solid.id } : solidFrom(manifold, { positions, triangles })
}

/** What a cut has left of a body at a frame, in the world; the whole of it where it can't be cut. */
export function cutMesh(body: Body, by: Body, cut: Cut, frame: number): MeshFrame {
  const { id } = body.shotMesh
  const found = solidCut(body, by, cut, frame)
  if (!found) return { id, positions: body.worldView(frame).slice(), triangles: body.outward.slice() }
  return { id, positions: found.positions.slice(), triangles: found.triangles.slice(), inner: found.inner } // prettier-ignore
}

/** What was cut last of each body. */
const known = new WeakMap<Body, { key: string; by: Body; cut: SolidCut | null }>()

/** A body cut by another at a frame; null where one of them is no solid: it stays whole. */
export function solidCut(body: Body, by: Body, { keep }: Pick<Cut, 'keep'>, frame: number): SolidCut | null {
  const key = `${frame} ${keep}`
  const found = known.get(body)
  if (found?.key === key && found.by === by) return found.cut
  const cut = (solidFault(body.mesh) ?? solidFault(by.mesh)) ? null : computeCut(body, by, keep, frame)
  known.set(body, { key, by, cut })
  return cut
}

function computeCut(body: Body, by: Body, keep: string, frame: number): SolidCut | null {
  const from = middleOf(body.worldView(frame))
  const solids: Manifold[] = []
  try {
    const whole = solidAt(body, closedAt(body, frame, from))
    solids.push(whole.solid)
    const tool = solidAt(by, closedAt(by, frame, from))
    solids.push(tool.solid)
    const result = keep === 'common' ? whole.solid.intersect(tool.solid) : whole.solid.subtract(tool.solid)
    solids.push(result)
    const volume = whole.solid.volume()
    return { ...surfaceOf(result, whole.id, from), volume, left: result.volume() }
  } catch {
    // a surface that folds through itself so that its edges no longer pair
    return null
  } finally {
    for (const solid of solids) solid.delete()
  }
}

/** The triangles of a result, those of the mesh itself first. */
function surfaceOf(result: Manifold, own: number, from: Vector): Omit<SolidCut, 'volume' | 'left'> {
  const { numProp, vertProperties, triVerts, runIndex, runOriginalID, faceID } = result.getMesh()
  const triangles = new Uint32Array(triVerts.length)
  const sources = new Uint32Array(triVerts.length / 3)
  let done = 0
  let inner = 0
  for (const cuts of [false, true]) {
    for (let run = 0; run < runOriginalID.length; run++) {
      if ((runOriginalID[run] !== own) !== cuts) continue
      const [start, end] = [runIndex[run]!, runIndex[run + 1]!]
      triangles.set(triVerts.subarray(start, end), done * 3)
      sources.set(faceID.subarray(start / 3, end / 3), done)
      done += (end - start) / 3
    }
    if (!cuts) inner = done
  }
  const count = vertProperties.length / numProp
  const positions = new Float32Array(count * 3)
  for (let v = 0; v < count; v++)
    for (let axis = 0; axis < 3; axis++)
      positions[v * 3 + axis] = vertProperties[v * numProp + axis]! + from[axis]!
  return { positions, triangles, inner, sources }
}

function middleOf(points: Float32Array): Vector {
  return [0, 1, 2].map((axis) => {
    let [low, high] = [Infinity, -Infinity]
    for (let k = axis; k < points.length; k += 3) {
      if (points[k]! < low) low = points[k]!
      if (points[k]! > high) high = points[k]!
    }
    return (low + high) / 2
  }) as Vector
}

/** Faces of a cut, as parts of the triangles of the body that cuts, which carries them along. */
export interface CutFaces {
  /** The triangle of each, and the weights of the second and third corner of it at each corner of the face: 6 numbers. */
  triangles: Uint32Array
  weights: Float64Array
  /** Area of all faces up to and including each, m². */
  areas: Float64Array
  /** Whether they look the other way than the triangle does: out of what is left. */
  flipped: boolean
}

export function cutFaces(body: Body, by: Body, cut: Pick<Cut, 'keep'>, frame: number): CutFaces {
  const found = solidCut(body, by, cut, frame)
  const world = by.worldView(frame)
  const own = by.mesh.triangles.length / 3
  const [triangles, weights, areas]: [number[], number[], number[]] = [[], [], []]
  let area = 0
  for (let t = found?.inner ?? 0; found && t < found.triangles.length / 3; t++) {
    const source = found.sources[t]!
    // lids of the one that cuts carry nobody
    if (source >= own) continue
    const size = length(areaVector(found, t)) / 2
    if (!(size > 0)) continue
    triangles.push(source)
    const corners = [0, 1, 2].map((k) => vectorOf(world, by.mesh.triangles[source * 3 + k]!)) as [Vector, Vector, Vector] // prettier-ignore
    for (let k = 0; k < 3; k++) weights.push(...weightsIn(corners, vectorOf(found.positions, found.triangles[t * 3 + k]!))) // prettier-ignore
    areas.push((area += size))
  }
  return {
    triangles: Uint32Array.from(triangles),
    weights: Float64Array.from(weights),
    areas: Float64Array.from(areas),
    flipped: cut.keep !== 'common',
  }
}
