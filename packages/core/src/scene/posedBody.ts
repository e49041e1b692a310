/** A broken mesh as its pieces are now: a body whose pieces are put where they are told, for what collides with them. */
import type { Machine } from '@tangle/kernels'
import { vertexNormals } from '../geometry/mesh.ts'
import { massProperties } from '../geometry/pieces.ts'
import { buildTree, freeTree, refitTree, type Tree } from '../geometry/tree.ts'
import { rotate, type Quaternion } from '../math/quaternion.ts'
import { add, scale, subtract, vectorOf, writeVector, type Vector } from '../math/vector.ts'
import type { Body } from './body.ts'

/** Where the centre of a piece is, and how it is turned. */
export interface PiecePose {
  place: Vector
  turned: Quaternion
}

export interface PosedBody {
  body: Body
  /** Whether any piece is there. */
  isHere(): boolean
  /** Of each triangle, the number of its piece. */
  pieceOf: Uint32Array
  /** Puts the pieces where they are at a frame; those that are not there are drawn in to a point of one that is. */
  pose(frame: number, poses: Map<number, PiecePose>): void
  dispose(): void
}

/** The tree is built over pieces that lie so many times farther apart than in their mesh, so that its branches part them. */
const APART = 4

export function posedBody(machine: Machine, bare: Body, first: number): PosedBody {
  const { heap } = machine
  const { mesh } = bare
  const { starts } = mesh.pieces!
  const masses = massProperties(mesh, bare.sizeAt(first))
  const count = mesh.positions.length / 3
  const pieceOf = new Uint32Array(mesh.triangles.length / 3)
  const ofVertex = new Uint32Array(count)
  masses.forEach((_, piece) => pieceOf.fill(piece, starts[piece], starts[piece + 1]))
  mesh.triangles.forEach((v, c) => (ofVertex[v] = pieceOf[Math.floor(c / 3)]!))
  // about the centres of their pieces, in world size
  const sized = bare.sizedAt(first)
  const local = Float32Array.from(sized, (x, k) => x - masses[ofVertex[Math.floor(k / 3)]!]!.centre[k % 3]!)
  const kept = [0, 1].map(() => ({ frame: NaN, world: heap.allocate(count * 12) }))
  let here = 0
  let fitted: { frame: number; tree: Tree } | undefined

  const momentAt = (frame: number) => kept.find((one) => one.frame === frame) ?? kept[0]!
  const worldView = (frame: number) => heap.f32(momentAt(frame).world, count * 3)
  const spread = (): Float32Array => {
    const out = new Float32Array(count * 3)
    for (let v = 0; v < count; v++)
      writeVector(out, v, add(vectorOf(local, v), scale(masses[ofVertex[v]!]!.centre, APART)))
    return out
  }
  const body: Body = {
    ...bare,
    moves: true,
    deforms: true,
    rigid: false,
    posed: true,
    worldAt: (frame) => momentAt(frame).world,
    worldView,
    worldNormals: (frame) => vertexNormals({ positions: worldView(frame).slice(), triangles: bare.outward }),
    treeAt(frame) {
      fitted ??= { frame: NaN, tree: buildTree(machine, { positions: spread(), triangles: bare.outward }) }
      const moment = momentAt(frame)
      if (fitted.frame !== moment.frame) refitTree(machine, fitted.tree, moment.world)
      fitted.frame = moment.frame
      return { tree: fitted.tree, into: null }
    },
    fieldAt: () => 0,
    swing(from, to) {
      const [a, b] = [worldView(from), worldView(to)]
      let most = 0
      for (let v = 0; v < count; v++) {
        const way = subtract(vectorOf(a, v), vectorOf(b, v))
        most = Math.max(most, way[0] ** 2 + way[1] ** 2 + way[2] ** 2)
      }
      return Math.sqrt(most)
    },
  }
  return {
    body,
    isHere: () => here > 0,
    pieceOf,
    pose(frame, poses) {
      // a moment that is told again is told anew; else the older one makes way
      let moment = kept.find((one) => one.frame === frame)
      if (!moment) moment = kept.reverse()[0]!
      moment.frame = frame
      here = poses.size
      if (fitted) fitted.frame = NaN
      const view = heap.f32(moment.world, count * 3)
      const someone = [...poses.values()][0]?.place ?? ([0, 0, 0] as Vector)
      for (let v = 0; v < count; v++) {
        const pose = poses.get(ofVertex[v]!)
        writeVector(view, v, pose ? add(pose.place, rotate(pose.turned, vectorOf(local, v))) : someone)
      }
    },
    dispose() {
      for (const one of kept) heap.free(one.world)
      if (fitted) freeTree(heap, fitted.tree)
    },
  }
}
