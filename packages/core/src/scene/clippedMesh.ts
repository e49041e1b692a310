import { areaAbove, carried, clip, thicken, type Clipped } from '../geometry/clip.ts'
import type { Mesh } from '../geometry/mesh.ts'
import { clamp, smooth } from '../math/functions.ts'
import type { Masks } from './masks.ts'
import type { Eaten } from '../document/types.ts'
import type { Body } from './body.ts'

/** Mask values below the level over which the rim crumbles. */
const RIM = 0.3

/** A mesh as it is at a frame, in the world; empty when nothing is left of it. The arrays are its own. */
export interface MeshFrame {
  id: string
  positions: Float32Array
  triangles: Uint32Array
  /** Of a mesh that another cuts: the triangle from which on they are faces of the cut. */
  inner?: number
  /** m/s of its vertices, where these are others in every frame. */
  velocities?: Float32Array
  /** Attributes of particles at its vertices, by their names, of a skin. */
  columns?: Record<string, Float32Array>
}

/**
 * What a mask has left of a body at a frame: cut at the level, given a wall, its rim crumbled. As long as
 * nothing is gone it is the mesh itself.
 */
export function clippedMesh(body: Body, eaten: Eaten, masks: Masks, frame: number): MeshFrame {
  const { id } = body.shotMesh
  const cut = cutAt(body, eaten, masks, frame)
  if (!cut) return { id, positions: body.worldView(frame).slice(), triangles: body.outward.slice() }
  return { id, positions: cut.positions, triangles: cut.triangles }
}

/** What a mask has left of a body, and the part that was cut from the whole; null while nothing is gone. */
export function cutAt(
  body: Body,
  { mask, level, thickness, crumble, crumbleMask }: Eaten,
  masks: Masks,
  frame: number,
): (Mesh & { part: Clipped }) | null {
  const values = masks.atVertices(mask, body, frame)
  if (!isReached(values, level)) return null
  const whole: Mesh = { positions: body.worldView(frame).slice(), triangles: body.outward }
  const part = clip(whole, values, level)
  const { positions, triangles } = part
  if (triangles.length === 0 || (thickness === 0 && crumble === 0)) return { positions, triangles, part }
  const normals = carried(part, body.worldNormals(frame), 3)
  if (crumble !== 0) {
    const where = crumbleMask === undefined ? null : masks.atVertices(crumbleMask, body, frame)
    const whereNow = where && carried(part, where, 1)
    crumbleRim(positions, normals, carried(part, values, 1), whereNow, level, crumble)
  }
  return { ...(thickness === 0 ? { positions, triangles } : thicken(part, normals, thickness)), part }
}

function isReached(values: Float32Array, level: number): boolean {
  for (let v = 0; v < values.length; v++) if (values[v]! >= level) return true
  return false
}

/** p −= n·depth·mask·s, s rising smoothly from 0 to 1 where the value comes up to the level. */
function crumbleRim(
  positions: Float32Array,
  normals: Float32Array,
  values: Float32Array,
  where: Float32Array | null,
  level: number,
  depth: number,
): void {
  for (let v = 0; v < values.length; v++) {
    const near = smooth(clamp((values[v]! - level + RIM) / RIM, 0, 1))
    const push = depth * near * (where ? where[v]! : 1)
    for (let axis = 0; axis < 3; axis++) {
      positions[v * 3 + axis] = positions[v * 3 + axis]! - normals[v * 3 + axis]! * push
    }
  }
}

export interface AreaMeasures {
  id: string
  /** Square metres: of the whole surface, of what the level has swept, and of what is left. */
  area: number
  swept: number
  left: number
}

/** How much of a body's surface a mask has at or above a level, at rest and in world size. */
export function measureArea(
  body: Body,
  mask: string,
  level: number,
  masks: Masks,
  frame: number,
): AreaMeasures {
  const points = body.sizedAt(frame)
  const area = body.areaAt(frame)
  const swept = areaAbove(points, body.mesh.triangles, masks.atVertices(mask, body, frame), level)
  return { id: body.shotMesh.id, area, swept, left: area - swept }
}
