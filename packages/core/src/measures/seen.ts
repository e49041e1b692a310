/** How much of meshes rays have seen, for the masks that ask for it. */
import { cumulatedAreas } from '../births/surface.ts'
import { perMesh } from '../geometry/mesh.ts'
import { ON_SQUARE, part } from '../math/even.ts'
import { seenMasks } from '../masks/seen.ts'
import type { Body } from '../scene/body.ts'
import type { World } from '../simulation/world.ts'

export interface SeenMeasures {
  /** Of the mask, and its mesh. */
  id: string
  mesh: string
  /** The part of the area of the mesh, in the size of the first frame, where the mask is at least one half: 0–1. */
  share: number
}

/** Places that are asked, each for as much area. */
const ASKED = 8192

export const measureSeen = ({ shot, bodies, machine, seen }: World, frame: number): SeenMeasures[] =>
  seenMasks(shot).flatMap(({ id, mesh }) => {
    const body = bodies.get(mesh)
    if (!body || body.mesh.triangles.length === 0) return []
    const { heap } = machine
    const columns = sampledAt(body)
    const [x, y, z, out] = [0, 1, 2, 3].map(() => heap.allocate(ASKED * 4)) as [number, number, number, number] // prettier-ignore
    ;[x, y, z].forEach((pointer, axis) => heap.f32(pointer, ASKED).set(columns[axis]!))
    seen.write(id, { x, y, z }, ASKED, frame, out)
    const share = heap.f32(out, ASKED).reduce((sum, value) => sum + (value >= 0.5 ? 1 : 0), 0) / ASKED
    for (const pointer of [x, y, z, out]) heap.free(pointer)
    return [{ id, mesh, share }]
  })

const samples = perMesh((): { size?: string; columns?: Float32Array[] } => ({}))

/** Places of a body at rest, even by area, in the size of the first frame: x, y and z. */
function sampledAt({ mesh, size }: Body): Float32Array[] {
  const known = samples(mesh)
  if (!known.columns || known.size !== size.join()) {
    known.columns = sampled(mesh, size)
    known.size = size.join()
  }
  return known.columns
}

function sampled(mesh: Body['mesh'], size: Body['size']): Float32Array[] {
  const areas = cumulatedAreas({ mesh, scale: size })
  const columns = [0, 1, 2].map(() => new Float32Array(ASKED))
  let t = 0
  for (let k = 0; k < ASKED; k++) {
    while (t < areas.length - 1 && areas[t]! < ((k + 0.5) / ASKED) * areas.at(-1)!) t++
    let [u, v] = [part(k * ON_SQUARE[0]), part(k * ON_SQUARE[1])]
    if (u + v > 1) [u, v] = [1 - u, 1 - v]
    columns.forEach((column, axis) => {
      const [a, b, c] = [0, 1, 2].map((corner) => mesh.positions[mesh.triangles[t * 3 + corner]! * 3 + axis]!) as [number, number, number] // prettier-ignore
      column[k] = (a + (b - a) * u + (c - a) * v) * size[axis]!
    })
  }
  return columns
}
