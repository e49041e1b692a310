import { signedNear } from '../scene/distance.ts'
import { vertexDistances } from '../scene/vertexDistances.ts'
import { number } from '../document/parameters.ts'
import { isClosed } from '../geometry/mesh.ts'
import { mask, ON_MESH, SOFT } from './mask.ts'

/** Part of the mesh's size up to which distances are found; shorter, more sides must be asked for. */
const FEELER = 0.12

/** By the signed distance d to a mesh as it is at the moment: 1 where d ≤ within, 0 from within + soft on. */
export const inside = mask({
  kind: 'inside',
  label: 'Inside a mesh',
  glyph: '◉',
  help: 'Full inside a mesh, or near it; the mesh may move and ripple',
  pitfall: 'Everything is outside: the other mesh is open, or its faces look inward.',
  source: 'Barill et al., "Fast winding numbers for soups and clouds" (2018); Ericson (2005) §5.1.5',
  parameters: {
    mesh: ON_MESH,
    within: number({
      label: 'Within',
      unit: 'm',
      help: 'Distance up to which it is full: above 0 near the surface, below 0 deep inside',
      default: 0,
      range: [-1e5, 1e5],
      usual: [-1, 1],
      step: 0.01,
      keyable: true,
    }),
    soft: SOFT,
  },
  write({ mesh, within, soft }, places, out, { machine, body }) {
    const other = body(mesh)
    const { low, high } = other.facts
    const size = other.sizeAt(places.frame)
    const reach = Math.max(...low.map((l, axis) => Math.abs((high[axis]! - l) * size[axis]!)))
    // what is deeper or farther than this is full or empty anyway
    const needed = Math.abs(within) + soft
    if (places.verticesOf !== undefined && isClosed(other.facts)) {
      const limit = Math.max(needed, FEELER * reach) * 1.01
      vertexDistances(machine, body(places.verticesOf), other).write(places.frame, needed, limit, out)
      machine.run('maskDistance', places.count, { distances: out, out, within, soft })
      return
    }
    const near = signedNear(machine, other, places.frame, places.positions, places.count, needed * 1.01)
    machine.run('maskDistance', places.count, { distances: near.distance, out, within, soft })
    near.free()
  },
})
