/** Meshes of a moment for drawing: shaded as they came, however finely they were split and wherever they were cut. */
import { carried } from '../geometry/clip.ts'
import { areaVector, turnedCorners, turnedOver, vertexNormals, type Mesh } from '../geometry/mesh.ts'
import {
  creasedNormals,
  normalsWithin,
  shadingNormals,
  splitAtCreases,
  turnedWith,
  type ShadedTriangles,
} from '../geometry/shading.ts'
import type { Affine } from '../math/vector.ts'
import type { Cut } from '../document/types.ts'
import { isMirrored, type Body } from './body.ts'
import { cutAt } from './clippedMesh.ts'
import type { Masks } from './masks.ts'
import { solidCut } from './solidCut.ts'

/** A body at a frame, whole. */
export function shadedBody(body: Body, frame: number): ShadedTriangles {
  const positions = body.worldView(frame)
  return splitAtCreases(positions, body.outward, normalsOf(body, frame))
}

/** What a mask has left of a body at a frame; walls along the cut are shaded flat. */
export function shadedRest(body: Body, masks: Masks, frame: number): ShadedTriangles {
  const { eaten } = body.shotMesh
  const cut = eaten && cutAt(body, eaten, masks, frame)
  if (!cut) return shadedBody(body, frame)
  const { part } = cut
  const lying = {
    rest: carried(part, body.mesh.positions, 3),
    triangles: isMirrored(body) ? turnedOver(part.triangles) : part.triangles,
    sources: part.sources,
  }
  const own = normalsWithin(body.mesh, shadingNormals(body.mesh), lying)
  const placed = outwards(body, placedNormals(own, body.placeAt(frame)))
  const outer = body.deforms
    ? turnedWith(
        placed,
        part.triangles,
        carried(part, faced(body, frame), 3),
        carried(part, facing(body, frame), 3),
      )
    : placed
  return splitAtCreases(cut.positions, cut.triangles, withWalls(cut, outer))
}

/** World normals of the corners of a body's triangles, as they face outward, at a frame. */
function normalsOf(body: Body, frame: number): Float32Array {
  const own = shadingNormals(body.mesh)
  const placed = outwards(body, placedNormals(own, body.placeAt(frame)))
  return body.deforms ? turnedWith(placed, body.outward, faced(body, frame), facing(body, frame)) : placed
}

/** What vertices would face without deformation, and what they face. */
function faced(body: Body, frame: number): Float32Array {
  const { positions, triangles } = body.mesh
  const m = body.placeAt(frame)
  const placed = new Float32Array(positions.length)
  for (let v = 0; v < positions.length; v += 3)
    for (let row = 0; row < 3; row++)
      placed[v + row] =
        m[row * 4]! * positions[v]! +
        m[row * 4 + 1]! * positions[v + 1]! +
        m[row * 4 + 2]! * positions[v + 2]! +
        m[row * 4 + 3]!
  return vertexNormals({ positions: placed, triangles })
}
const facing = (body: Body, frame: number): Float32Array =>
  vertexNormals({ positions: body.worldView(frame).slice(), triangles: body.mesh.triangles })

/** Normals of the corners of its own triangles in the order of those that face outward. */
const outwards = (body: Body, normals: Float32Array): Float32Array =>
  isMirrored(body) ? turnedCorners(normals, 3) : normals

/** Normals under a map: by its cofactors, turned back where it mirrors. */
function placedNormals(normals: Float32Array, m: Affine): Float32Array {
  const row = (r: number): [number, number, number] => [m[r * 4]!, m[r * 4 + 1]!, m[r * 4 + 2]!]
  const cofactors = [0, 1, 2].map((r) => {
    const [a, b] = [row((r + 1) % 3), row((r + 2) % 3)]
    return [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]]
  })
  const way = row(0).reduce((sum, x, k) => sum + x * cofactors[0]![k]!, 0) < 0 ? -1 : 1
  const out = new Float32Array(normals.length)
  for (let at = 0; at < normals.length; at += 3) {
    const n = cofactors.map(
      ([x, y, z]) => way * (x! * normals[at]! + y! * normals[at + 1]! + z! * normals[at + 2]!),
    ) as [number, number, number]
    const l = Math.sqrt(n[0] ** 2 + n[1] ** 2 + n[2] ** 2)
    out.set(l > 0 ? [n[0] / l, n[1] / l, n[2] / l] : [0, 1, 0], at)
  }
  return out
}

/** Normals of the outer skin, of the inner one that is turned round, and of the flat walls between them. */
function withWalls(mesh: Mesh, outer: Float32Array): Float32Array {
  const { triangles } = mesh
  const all = new Float32Array(triangles.length * 3)
  all.set(outer)
  const skin = outer.length / 9
  for (let t = skin; t < triangles.length / 3; t++) {
    const n = areaVector(mesh, t)
    const l = Math.sqrt(n[0] ** 2 + n[1] ** 2 + n[2] ** 2)
    for (let k = 0; k < 3; k++) {
      const at = (t * 3 + k) * 3
      // the inner skin runs a, c, b
      const of = ((t - skin) * 3 + [0, 2, 1][k]!) * 3
      if (t < skin * 2) all.set([-outer[of]!, -outer[of + 1]!, -outer[of + 2]!], at)
      else all.set(l > 0 ? [n[0] / l, n[1] / l, n[2] / l] : [0, 1, 0], at)
    }
  }
  return all
}

/** What another mesh has left of a body at a frame, and from which triangle on they are faces of the cut; the whole of it where it can't be cut. */
export function shadedCut(
  body: Body,
  by: Body,
  cut: Cut,
  frame: number,
): ShadedTriangles & { inner?: number } {
  const found = solidCut(body, by, cut, frame)
  return found
    ? { ...splitAtCreases(found.positions, found.triangles, creasedNormals(found)), inner: found.inner }
    : shadedBody(body, frame)
}
