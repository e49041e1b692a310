import { buildTree, closestPoints, freeTree } from '../geometry/tree.ts'
import { weightsAt } from '../geometry/weights.ts'
import { projectionWeights } from '../scene/surfaceProjection.ts'
import type { Mesh } from '../geometry/mesh.ts'
import type { Points } from '../scene/points.ts'
import { choice, number, reference, type ValuesOf } from '../document/parameters.ts'
import { COMMON, goal, type GoalContext } from './goal.ts'

const PARAMETERS = {
  mesh: reference({ label: 'Mesh', help: 'Where they go; it may move and ripple', to: 'mesh' }),
  ...COMMON,
  scatter: choice({
    label: 'Scatter',
    help: 'How the places lie: at random, or as far apart as can be',
    default: 'even',
    options: { even: 'even', random: 'random' },
  }),
  height: number({
    label: 'Height',
    unit: 'm',
    help: 'Of the places above the surface, along its normal',
    default: 0,
    range: [-1e3, 1e3],
    usual: [0, 0.5],
    step: 0.001,
  }),
}

/** As many places on the surface as there are particles. */
export const surface = goal({
  kind: 'surface',
  label: 'On a surface',
  glyph: '◠',
  help: 'Anywhere on the surface of a mesh, one place for each particle',
  source: 'Even scatter: Yuksel, "Sample elimination for generating Poisson disk sample sets" (2015)',
  parameters: PARAMETERS,
  independent: ({ pairing, scatter }) =>
    pairing === 'nearest' || pairing === 'uv' || (pairing === 'random' && scatter === 'random'),
  places(values, context) {
    const on = context.body(values.mesh).number
    if (values.pairing === 'nearest') return { on, points: nearest(values, context), own: true }
    if (values.pairing === 'uv') return { on, points: bySameUv(values, context), own: true }
    const { ids } = context.seekers
    // even among those that are born at once; the next get other places
    const batch = values.scatter === 'even' ? String(ids[0]) : ''
    const amount = { burst: ids.length, at: 0 }
    const wanted = { offset: values.height, scatter: values.scatter, amount }
    const source = context.birthPoints(values.mesh, 'surface', wanted, batch)
    // scattered at random, a place goes by the particle's id: so it stays whatever the preview share
    const own = values.pairing === 'random' && values.scatter === 'random'
    return {
      on,
      points: source.points(
        ids,
        ids.map((_, k) => k),
      ),
      own,
    }
  },
})

type Values = ValuesOf<typeof PARAMETERS>

/** The point of the surface that is nearest to each. */
function nearest({ mesh }: Values, { machine, seekers, frame, body }: GoalContext): Points {
  return projectionWeights(machine, body(mesh), frame, seekers.positions, seekers.ids.length)
}

/** The point with the same texture coordinates as the place where each was born. */
function bySameUv({ mesh }: Values, { machine, seekers, body }: GoalContext): Points {
  const target = body(mesh).mesh
  const uvs = seekers.uvs()
  const count = seekers.ids.length
  if (!uvs || !target.uvs) return { triangles: new Uint32Array(0), weights: new Float32Array(0) }
  const flat: Mesh = { positions: raised(target.uvs), triangles: target.triangles.map((_, k) => k) }
  const tree = buildTree(machine, flat)
  const { points, triangles } = closestPoints(machine, tree, raised(uvs))
  freeTree(machine.heap, tree)
  return { triangles, weights: weightsAt(machine, flat, triangles, points.subarray(0, count * 3)) }
}

/** (u, v) as (u, v, 0). */
function raised(uvs: Float32Array): Float32Array {
  const out = new Float32Array((uvs.length / 2) * 3)
  for (let k = 0; k < uvs.length / 2; k++) out.set([uvs[k * 2]!, uvs[k * 2 + 1]!], k * 3)
  return out
}
