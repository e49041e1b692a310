import { neighbourhood } from '../geometry/march.ts'
import { vertexNormals, type Mesh } from '../geometry/mesh.ts'
import { smooth } from '../math/functions.ts'
import { strokes, type Stroke } from '../document/parameters.ts'
import { mask, ON_MESH } from './mask.ts'

/** Vertices that look away from where the brush is are left alone: thin walls are painted on one side. */
const FACING = -0.2

/**
 * Painted on a mesh by strokes, one after the other. Along a stroke each vertex gets the coverage
 * c = strength·max(1 − 3t² + 2t³) with t = distance to the brush / radius. Add: v + (1 − v)·c; erase:
 * v·(1 − c); smooth: towards the mean of its neighbours by c.
 */
export const painted = mask({
  kind: 'painted',
  label: 'Painted',
  glyph: '✎',
  help: 'Painted on a mesh with a brush',
  source: '',
  onSurface: true,
  parameters: {
    mesh: ON_MESH,
    strokes: strokes({ label: 'Strokes', help: 'What the brush has done', default: [] }),
  },
  write({ mesh, strokes: all }, places, out, { body, sample, keep, machine }) {
    const painted = body(mesh)
    const count = painted.mesh.positions.length / 3
    const values = keep('values', count * 4, (p) =>
      machine.heap
        .f32(p, count)
        .set(paintedValues(painted.mesh, all, meanSize(painted.sizeAt(places.frame)))),
    )
    sample(painted, places, values, out)
  },
})

const meanSize = (size: readonly number[]): number =>
  Math.max(1e-9, size.reduce((sum, s) => sum + Math.abs(s), 0) / 3)

const known = new WeakMap<Mesh, { key: string; values: Float32Array }>()

/** Value per vertex after all strokes. Radii are in world metres; `scale` is the mean size of the place. */
export function paintedValues(mesh: Mesh, all: Stroke[], scale: number): Float32Array {
  const key = `${scale} ${JSON.stringify(all)}`
  const found = known.get(mesh)
  if (found?.key === key) return found.values
  const values = new Float32Array(mesh.positions.length / 3)
  const normals = vertexNormals(mesh)
  for (const stroke of all) applyStroke(mesh, normals, values, stroke, scale)
  known.set(mesh, { key, values })
  return values
}

function applyStroke(
  mesh: Mesh,
  normals: Float32Array,
  values: Float32Array,
  stroke: Stroke,
  scale: number,
): void {
  const p = mesh.positions
  const radius = stroke.radius / scale
  const coverage = new Float32Array(values.length)
  for (const [x, y, z] of stroke.points) {
    let nearest = -1
    let best = radius * radius
    const squaredTo = (v: number): number =>
      (p[v * 3]! - x) ** 2 + (p[v * 3 + 1]! - y) ** 2 + (p[v * 3 + 2]! - z) ** 2
    for (let v = 0; v < values.length; v++) {
      const squared = squaredTo(v)
      if (squared < best) {
        best = squared
        nearest = v
      }
    }
    if (nearest < 0) continue
    const n = normals.subarray(nearest * 3, nearest * 3 + 3)
    for (let v = 0; v < values.length; v++) {
      const squared = squaredTo(v)
      if (squared >= radius * radius) continue
      const facing = n[0]! * normals[v * 3]! + n[1]! * normals[v * 3 + 1]! + n[2]! * normals[v * 3 + 2]!
      if (facing < FACING) continue
      coverage[v] = Math.max(coverage[v]!, stroke.strength * (1 - smooth(Math.sqrt(squared) / radius)))
    }
  }
  const before = stroke.brush === 'smooth' ? values.slice() : values
  for (let v = 0; v < values.length; v++) {
    const c = coverage[v]!
    if (c === 0) continue
    if (stroke.brush === 'add') values[v] = values[v]! + (1 - values[v]!) * c
    else if (stroke.brush === 'erase') values[v] = values[v]! * (1 - c)
    else values[v] = before[v]! + (meanAround(mesh, before, v) - before[v]!) * c
  }
}

function meanAround(mesh: Mesh, values: Float32Array, v: number): number {
  const { first, around } = neighbourhood(mesh)
  let sum = 0
  const from = first[v]!
  const to = first[v + 1]!
  for (let n = from; n < to; n++) {
    const t = around[n]! * 3
    for (let k = 0; k < 3; k++) sum += values[mesh.triangles[t + k]!]!
  }
  return to > from ? sum / (3 * (to - from)) : values[v]!
}
