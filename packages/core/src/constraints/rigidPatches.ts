/** A mesh that deforms as patches that each move as a whole, so that what lies on it is carried and thrown by it. */
import { meshFacts, perMesh, type Mesh } from '../geometry/mesh.ts'
import { principalAxes, rotate, conjugate } from '../math/quaternion.ts'
import { add, cross, length, scale, subtract, unit, vectorOf, type Vector } from '../math/vector.ts'

/** Some of its triangles, and the vertices of the mesh that they have. */
export interface Patch {
  vertices: Uint32Array
  /** Three numbers of those vertices each. */
  triangles: Uint32Array
}

/** As many patches at the most; a mesh with fewer triangles has one for each. */
const MOST = 256
/** Triangles that face opposite ways are as far from one another as this share of the mesh. */
const FACING = 0.2

/** Patches of a mesh: its triangles by the nearest of some that lie far from one another, or face other ways. */
export const patchesOf = perMesh((mesh): Patch[] => {
  const count = mesh.triangles.length / 3
  const places = placesOf(mesh)
  const squared = new Float64Array(count).fill(Infinity)
  const nearest = new Int32Array(count)
  const wanted = Math.min(MOST, count)
  for (let n = 0, seed = 0; n < wanted; n++) {
    const from = places.slice(seed * 6, seed * 6 + 6)
    let farthest = 0
    for (let t = 0; t < count; t++) {
      let d = 0
      for (let k = 0; k < 6; k++) d += (places[t * 6 + k]! - from[k]!) ** 2
      if (d < squared[t]!) {
        squared[t] = d
        nearest[t] = n
      }
      if (squared[t]! > squared[farthest]!) farthest = t
    }
    seed = farthest
  }
  const own = Array.from({ length: wanted }, (): number[] => [])
  nearest.forEach((n, t) => own[n]!.push(t))
  return own.filter((all) => all.length > 0).map((all) => patchOf(mesh, all))
})

/** Middles of triangles and which way they face, 6 numbers each, m. */
function placesOf(mesh: Mesh): Float64Array {
  const { positions, triangles } = mesh
  const { low, high } = meshFacts(mesh)
  const facing = (FACING / 2) * length(subtract(high, low))
  const corner = (k: number): Vector => vectorOf(positions, triangles[k]!)
  return Float64Array.from(Array.from({ length: triangles.length / 3 }, (_, t) => {
    const [a, b, c] = [corner(t * 3), corner(t * 3 + 1), corner(t * 3 + 2)]
    const normal = unit(cross(subtract(b, a), subtract(c, a)))
    return [...scale(add(a, add(b, c)), 1 / 3), ...scale(normal, facing)]
  }).flat())
} // prettier-ignore

function patchOf({ triangles }: Mesh, own: number[]): Patch {
  const numbers = new Map<number, number>()
  const local = own.flatMap((t) => [...triangles.subarray(t * 3, t * 3 + 3)]).map((v) => {
    if (!numbers.has(v)) numbers.set(v, numbers.size)
    return numbers.get(v)!
  }) // prettier-ignore
  return { vertices: Uint32Array.from(numbers.keys()), triangles: Uint32Array.from(local) }
}

/** How a patch moves as a whole from one moment to another: its middles, and the rotation vector that fits best (least squares). */
export function motionOfPatch({ vertices }: Patch, before: Float32Array, after: Float32Array) {
  const middle = (of: Float32Array): Vector => scale([...vertices].reduce((sum, v) => add(sum, vectorOf(of, v)), [0, 0, 0] as Vector), 1 / vertices.length) // prettier-ignore
  const [from, to] = [middle(before), middle(after)]
  const inertia = [0, 0, 0, 0, 0, 0]
  let momentum: Vector = [0, 0, 0]
  for (const v of vertices) {
    const arm = subtract(vectorOf(before, v), from)
    const [x, y, z] = arm
    ;[y * y + z * z, z * z + x * x, x * x + y * y, -x * y, -y * z, -z * x].forEach(
      (one, k) => (inertia[k]! += one),
    )
    momentum = add(momentum, cross(arm, subtract(subtract(vectorOf(after, v), to), arm)))
  }
  const { values, axes } = principalAxes(inertia)
  const least = 1e-6 * Math.max(...values) + 1e-300
  const turn = rotate(axes, rotate(conjugate(axes), momentum).map((l, k) => l / Math.max(least, values[k]!)) as Vector) // prettier-ignore
  return { from, to, turn }
}
