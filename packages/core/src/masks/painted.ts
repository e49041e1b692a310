import { neighbourhood } from '../geometry/march.ts'
import { forEachUnderBrush } from '../geometry/brush.ts'
import type { Mesh } from '../geometry/mesh.ts'
import { placesOf, strengthAt, strokes, type Stroke } from '../document/parameters.ts'
import { mask, ON_MESH } from './mask.ts'

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
  pitfall: 'Strokes look jagged: the mesh is too coarse for the brush, refine it.',
  source: '',
  onSurface: true,
  parameters: {
    mesh: ON_MESH,
    strokes: strokes({
      label: 'Strokes',
      help: 'What the brush has done',
      default: [],
      brushes: { add: 'paint', erase: 'erase', smooth: 'smooth' },
    }),
  },
  write({ mesh, strokes: all }, places, out, { body, sample, keep, machine }) {
    const painted = body(mesh)
    const count = painted.mesh.positions.length / 3
    const values = keep('values', count * 4, (p) =>
      machine.heap
        .f32(p, count)
        .set(paintedValues(painted.mesh, all, meanSize(painted.sizeAt(places.frame)))),
    )
    sample(painted, places, [values], [out])
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
  for (const stroke of all) applyStroke(mesh, values, stroke, scale)
  known.set(mesh, { key, values })
  return values
}

function applyStroke(mesh: Mesh, values: Float32Array, stroke: Stroke, scale: number): void {
  const coverage = new Float32Array(values.length)
  forEachUnderBrush(mesh, placesOf(stroke), stroke.radius / scale, (v, reach, place) => {
    coverage[v] = Math.max(coverage[v]!, strengthAt(stroke, place) * reach)
  })
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
