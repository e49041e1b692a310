import { nearSurface } from '../scene/distance.ts'
import type { ResponseKind } from './response.ts'

export const mesh: ResponseKind = {
  from: 'mesh',
  label: 'distance to a mesh',
  unit: 'm',
  usual: [0, 2],
  needs: 'mesh',
  write(out, { machine, columns, bodies, from }, { mesh }) {
    // the schema sees to it that the mesh is named and there
    const near = nearSurface(machine, bodies.get(mesh!)!, from, columns.at.position, out.length, true)
    out.set(machine.heap.f32(near.distance, out.length))
    near.free()
  },
}
