/**
 * Where the pieces of a broken mesh are, in one piece, while it moves: with its place, and where it does not keep its shape, as each piece's
 * own vertices move, fitted by what keeps the piece's shape.
 */
import { perMesh } from '../geometry/mesh.ts'
import { massProperties } from '../geometry/pieces.ts'
import { compose, conjugate, principalAxes, rotate, turnBy, type Quaternion } from '../math/quaternion.ts'
import { add, cross, dot, length, scale, subtract, vectorOf, type Vector } from '../math/vector.ts'
import type { Body } from './body.ts'
import { numberOfPiece } from './pieces.ts'
import type { PiecePose } from './posedBody.ts'
import { turnAt } from './turning.ts'

/** Rounds in which a turn is found, and how small a step ends them, radians. */
const ROUNDS = 60
const STEP = 1e-7

/** Centre and turn of a piece at a frame, in the world. */
export function piecePose(body: Body, piece: number, frame: number): PiecePose {
  const poses = posesOf(body, frame)
  const known = poses.get(piece)
  if (known) return known
  const found = fitPiece(body, piece, frame)
  poses.set(piece, found)
  return found
}

/** Poses that have been asked for, of two frames: a substep asks for its start and its end. */
const KEPT = new WeakMap<Body, { frame: number; poses: Map<number, PiecePose> }[]>()
function posesOf(body: Body, frame: number): Map<number, PiecePose> {
  const kept = KEPT.get(body) ?? []
  KEPT.set(body, kept)
  const found = kept.find((one) => one.frame === frame)
  if (found) return found.poses
  const made = { frame, poses: new Map<number, PiecePose>() }
  kept.unshift(made)
  kept.length = Math.min(2, kept.length)
  return made.poses
}

/** Vertices of each piece. */
const verticesOf = perMesh(({ triangles, pieces }): Uint32Array[] =>
  Array.from(
    { length: pieces!.starts.length - 1 },
    (_, k) =>
      new Uint32Array(new Set(triangles.subarray(pieces!.starts[k]! * 3, pieces!.starts[k + 1]! * 3))),
  ),
)

function fitPiece(body: Body, piece: number, frame: number): PiecePose {
  const { mesh, size } = body
  const vertices = verticesOf(mesh)[piece]!
  const now = body.worldView(frame)
  const rest = (v: number): Vector => vectorOf(mesh.positions, v).map((x, k) => x * size[k]!) as Vector
  const mean = (of: (v: number) => Vector): Vector => {
    let sum: Vector = [0, 0, 0]
    for (const v of vertices) sum = add(sum, of(v))
    return scale(sum, 1 / vertices.length)
  }
  const [from, to] = [mean(rest), mean((v) => vectorOf(now, v))]
  // Σ (now − to) (rest − from)ᵀ, column by column, and Σ (rest − from) (rest − from)ᵀ as xx, yy, zz, xy, yz, zx
  const columns: [Vector, Vector, Vector] = [[0, 0, 0], [0, 0, 0], [0, 0, 0]] // prettier-ignore
  const spread = [0, 0, 0, 0, 0, 0]
  for (const v of vertices) {
    const [a, b] = [subtract(vectorOf(now, v), to), subtract(rest(v), from)]
    for (let k = 0; k < 3; k++) columns[k] = add(columns[k]!, scale(a, b[k]!))
    ;[0, 1, 2].forEach((k) => {
      spread[k]! += b[k]! * b[k]!
      spread[3 + k]! += b[k]! * b[(k + 1) % 3]!
    })
  }
  const turned = turnThatFits(columns, turnAt(body, frame))
  const { centre } = massProperties(mesh, size)[piece]!
  return { place: add(to, mapped(subtract(centre, from), columns, spread, turned)), turned }
}

/** A way in a piece as its vertices take it along, by the linear map that fits best; across what is flat, by its turn. */
function mapped(
  way: Vector,
  columns: [Vector, Vector, Vector],
  spread: number[],
  turned: Quaternion,
): Vector {
  const { values, axes } = principalAxes(spread)
  const inAxes = rotate(conjugate(axes), way)
  const thin = values.map((value) => value < 1e-6 * Math.max(...values))
  const solved = rotate(axes, inAxes.map((x, k) => (thin[k] ? 0 : x / values[k]!)) as Vector)
  const across = rotate(axes, inAxes.map((x, k) => (thin[k] ? x : 0)) as Vector)
  return solved.reduce((sum, x, k) => add(sum, scale(columns[k]!, x)), rotate(turned, across))
}

/**
 * The turn nearest to a linear map, from one that is near.
 * Source: Müller, Bender, Chentanez, Macklin, "A robust method to extract the rotational part of deformations" (2016).
 */
export function turnThatFits(columns: [Vector, Vector, Vector], near: Quaternion): Quaternion {
  let turned = near
  for (let n = 0; n < ROUNDS; n++) {
    const axes = ([[1, 0, 0], [0, 1, 0], [0, 0, 1]] as Vector[]).map((axis) => rotate(turned, axis)) // prettier-ignore
    const wanted = axes.reduce((sum, axis, k) => add(sum, cross(axis, columns[k]!)), [0, 0, 0] as Vector)
    const along = axes.reduce((sum, axis, k) => sum + dot(axis, columns[k]!), 0)
    const step = scale(wanted, 1 / (Math.abs(along) + 1e-30))
    turned = compose(turnBy(step), turned)
    if (length(step) < STEP) break
  }
  return turned
}

/** Whether pieces of a mesh go by themselves as it moves: it does not keep its shape. */
export const bends = (body: Body): boolean => !body.rigid && body.mesh.pieces !== undefined

/** How the home of a particle is turned at a frame: as its piece, or as the mesh. */
export const homeTurn = (body: Body, piece: number, frame: number): Quaternion =>
  piece > 0 && bends(body) ? piecePose(body, numberOfPiece(piece), frame).turned : turnAt(body, frame)
