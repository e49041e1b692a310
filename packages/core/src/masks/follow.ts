import { inverse, multiply, type Affine } from '../math/vector.ts'
import type { MaskContext, Places } from './mask.ts'

/**
 * The places as a mesh sees them that has stayed where it is at the first frame: a mask in their space
 * moves along with the mesh. Without a mesh they are the places themselves.
 */
export function followed(
  follow: string | undefined,
  places: Places,
  { machine, body, first }: MaskContext,
  use: (points: number) => void,
): void {
  if (follow === undefined) return use(places.positions)
  const { heap } = machine
  const mesh = body(follow)
  const back: Affine = multiply(mesh.placeAt(first), inverse(mesh.placeAt(places.frame)))
  const map = heap.allocate(96)
  const points = heap.allocate(places.count * 12)
  heap.f64(map, 12).set(back)
  machine.run('transformPoints', places.count, { points: places.positions, out: points, map })
  use(points)
  heap.free(points)
  heap.free(map)
}
