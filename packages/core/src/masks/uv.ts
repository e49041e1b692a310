import { choice, number } from '../document/parameters.ts'
import { feetOf } from '../scene/feet.ts'
import { mask, ON_MESH } from './mask.ts'

const range: [number, number] = [-1e6, 1e6]

/** A band of a mesh's texture coordinates: an edge to start from, or a stretch to keep to. */
export const uv = mask({
  kind: 'uv',
  label: 'Band of U or V',
  glyph: '▤',
  help: 'Where the U or V of a mesh is between two values: along one of its edges, say',
  pitfall: 'All or nothing is in it: the mesh has no U and V, or they do not run from 0 to 1.',
  source: '',
  onSurface: true,
  parameters: {
    mesh: ON_MESH,
    along: choice({ label: 'Along', help: 'Which coordinate', default: 'u', options: { u: 'U', v: 'V' } }),
    low: number({
      label: 'From',
      unit: '',
      help: 'Lower end',
      default: 0,
      range,
      usual: [0, 1],
      step: 0.01,
      keyable: true,
    }),
    high: number({
      label: 'To',
      unit: '',
      help: 'Upper end',
      default: 0.1,
      range,
      usual: [0, 1],
      step: 0.01,
      keyable: true,
    }),
    soft: number({
      label: 'Soft',
      unit: '',
      help: 'Over how much of U or V it falls from 1 to 0',
      default: 0.02,
      range: [0, 1e6],
      usual: [0, 0.5],
      step: 0.01,
      keyable: true,
    }),
  },
  write({ mesh, along, low, high, soft }, places, out, context) {
    const body = context.body(mesh)
    const { heap } = context.machine
    const { uvs, triangles: corners } = body.mesh
    if (!uvs) return void heap.f32(out, places.count).fill(0)
    const c = along === 'u' ? 0 : 1
    const band = (t: number): number => {
      const inside = Math.min(t - low, high - t)
      if (soft === 0) return inside >= 0 ? 1 : 0
      return Math.min(1, Math.max(0, inside / soft + 1))
    }
    if (places.verticesOf === mesh) {
      // at a seam a vertex has two: the fuller one counts
      const values = heap.f32(out, places.count).fill(0)
      corners.forEach((vertex, k) => (values[vertex] = Math.max(values[vertex]!, band(uvs[k * 2 + c]!))))
      return
    }
    const feet = feetOf(context.machine, body, places)
    const [triangles, weights] = [heap.u32(feet.triangle, places.count), heap.f32(feet.weights, places.count * 2)] // prettier-ignore
    const values = heap.f32(out, places.count)
    for (let i = 0; i < places.count; i++) {
      const [a, b, d] = [0, 2, 4].map((k) => uvs[triangles[i]! * 6 + k + c]!) as [number, number, number]
      values[i] = band(a + (b - a) * weights[i * 2]! + (d - a) * weights[i * 2 + 1]!)
    }
    feet.free()
  },
})
