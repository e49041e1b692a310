import { layouts, type Machine } from '@tangle/kernels'
import type { Body } from './body.ts'
import { isSided } from '../geometry/field.ts'
import { isClosed } from '../geometry/mesh.ts'
import { FAR, nameTriangles, windingNumbers } from '../geometry/tree.ts'
import type { Affine } from '../math/vector.ts'

export interface Near {
  /** Pointers: f32 distance in metres, u32 triangle (of the mesh), 3 × f32 point in the tree's frame. */
  distance: number
  triangle: number
  point: number
  free(): void
}

/**
 * The surface nearest to points of the world (3 × f32), at a frame. With `signed` the distance is negative
 * inside: where the mesh winds around a point by more than half (Barill et al. 2018), so that open scans
 * have an inside too. Beyond `limit` metres the distance is 1e30 (signed all the same).
 */
export function nearSurface(
  machine: Machine,
  body: Body,
  frame: number,
  points: number,
  count: number,
  signed: boolean,
  limit = FAR,
): Near {
  const { heap } = machine
  const { tree, into } = body.treeAt(frame)
  const owned: number[] = []
  const block = (bytes: number): number => {
    const pointer = heap.allocate(bytes)
    owned.push(pointer)
    return pointer
  }
  const queries = into ? transformed(machine, points, count, into) : points
  if (into) owned.push(queries)
  const near = { point: block(count * 12), distance: block(count * 4), triangle: block(count * 4) }
  const { quads, vertices, stack } = tree
  machine.run('closestPoints', count, {
    queries,
    quads,
    vertices,
    stack,
    outPoint: near.point,
    outDistance: near.distance,
    outTriangle: near.triangle,
    limit,
  })
  if (signed) {
    if (!isClosed(body.facts)) {
      const positions = heap.f32(queries, count * 3)
      const distance = heap.f32(near.distance, count)
      windingNumbers(machine, tree, positions).forEach((w, i) => {
        if (w > 0.5) distance[i] = -distance[i]!
      })
    } else {
      const { dipoles } = tree
      const sides = { count, queries, distance: near.distance, limit, quads, vertices, dipoles, stack }
      machine.run('signDistances', Math.ceil(count / layouts.SIDE_GROUP), sides)
    }
  }
  nameTriangles(machine, tree, near.triangle, count)
  return { ...near, free: () => owned.forEach((pointer) => heap.free(pointer)) }
}

/** Points from which on a field of distances is made. */
export const FIELD_FROM = 1000

/**
 * The surface nearest to points, negative distances inside, where distances matter up to `reach` metres and beyond it only sides do
 * (±1e30, with no place). Who is far off is told so by the body's field of distances, if it has one.
 */
export function signedNear(
  machine: Machine,
  body: Body,
  frame: number,
  points: number,
  count: number,
  reach: number,
): Near {
  const { heap } = machine
  const limit = signLimit(body, frame, reach)
  const field = count >= FIELD_FROM && reach < FAR ? body.fieldAt(frame) : 0
  if (field === 0 || !isSided(machine, field))
    return nearSurface(machine, body, frame, points, count, true, limit)
  const { into } = body.treeAt(frame)
  const near = {
    distance: heap.allocate(count * 4),
    triangle: heap.allocate(count * 4),
    point: heap.allocate(count * 12),
  }
  const queries = into ? transformed(machine, points, count, into) : points
  machine.run('fill', count, { column: near.triangle, value: 0 })
  machine.run('fill', count * 3, { column: near.point, value: 0 })
  machine.run('sidesByField', count, { field, queries, limit: reach, distance: near.distance })
  if (into) heap.free(queries)
  const rows = heap.allocate(count * 4)
  const untold = machine.call('selectUntold', { count, distance: near.distance, out: rows })
  const some = heap.allocate(untold * 12)
  machine.run('gatherRows', untold, { index: rows, column: points, width: 3, out: some })
  const found = nearSurface(machine, body, frame, some, untold, true, limit)
  for (const [name, width] of [
    ['distance', 1],
    ['triangle', 1],
    ['point', 3],
  ] as const)
    machine.run('scatterRows', untold, { index: rows, rows: found[name], width, column: near[name] })
  found.free()
  for (const pointer of [rows, some]) heap.free(pointer)
  return { ...near, free: () => Object.values(near).forEach((pointer) => heap.free(pointer)) }
}

/** A block of points that a map has taken elsewhere, to be freed. */
function transformed(machine: Machine, points: number, count: number, map: Affine): number {
  const { heap } = machine
  const [out, rows] = [heap.allocate(count * 12), heap.allocate(96)]
  heap.f64(rows, 12).set(map)
  machine.run('transformPoints', count, { points, out, map: rows })
  heap.free(rows)
  return out
}

/** An eighth of the body at least: beyond the limit sides follow from distances. */
function signLimit(body: Body, frame: number, reach: number): number {
  const { low, high } = body.facts
  const size = body.sizeAt(frame)
  const squared = low.reduce((sum, x, axis) => sum + ((high[axis]! - x) * size[axis]!) ** 2, 0)
  return Math.max(reach * 1.001 + 1e-6, Math.sqrt(squared) / 8)
}
