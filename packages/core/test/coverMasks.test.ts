/** Masks on the ground of covers, which is the mesh split more finely. */
import { createMachine } from '@tangle/kernels'
import { createScene } from '../src/index.ts'
import { refine } from '../src/geometry/refine.ts'
import { createBody } from '../src/scene/body.ts'
import { ASSET, box, shotOf } from './help.ts'

test('a mask on a mesh is read right at the vertices of a cover over it, which is split more finely', () => {
  const stroke = { points: [[0.5, 0.5, 0.5]], radius: 0.6, strength: 1, brush: 'add' }
  const shot = shotOf({}, { masks: [{ id: 'm', kind: 'painted', mesh: 'box', strokes: [stroke] }] })
  const machine = createMachine()
  const { bodies, masks } = createScene(machine, shot, new Map([[ASSET, box()]]), new Set(['box']))
  const fine = createBody(machine, shot, shot.meshes[0]!, 1, refine(box(), 0.15), [])
  const values = masks.atVertices('m', fine, 1)
  // the mesh itself is split for its mask, another way
  expect(values.length).not.toBe(bodies.get('box')!.mesh.positions.length / 3)
  const p = fine.worldView(1)
  values.forEach((value, v) => {
    expect([v, value >= 0 && value <= 1]).toEqual([v, true])
    const away = Math.hypot(p[v * 3]! - 0.5, p[v * 3 + 1]! - 0.5, p[v * 3 + 2]! - 0.5)
    // linear on the triangles of the mesh: full at the painted corner, nothing on the triangles that do not have it
    if (away < 1e-6) expect(value).toBeCloseTo(1, 5)
    if (away > 0 && away < 0.16) expect(value).toBeGreaterThan(0.6)
    if (p[v * 3]! < -0.49 && p[v * 3 + 1]! < -0.49) expect(value).toBeCloseTo(0, 5)
  })
})
