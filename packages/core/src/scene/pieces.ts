/** Which piece of which broken mesh a particle is: the attribute `piece`. */
import { pieceCount, type MassProperties, massProperties } from '../geometry/pieces.ts'
import type { Mesh } from '../geometry/mesh.ts'
import type { Vector } from '../math/vector.ts'

/** More pieces than that of one mesh have no numbers. */
export const MOST_PIECES = 65_535
const STEP = MOST_PIECES + 1

/** @param mesh number of the mesh among those of the shot, from 0 @param piece from 0 */
export const pieceNumber = (mesh: number, piece: number): number => mesh * STEP + piece + 1
export const meshOfPiece = (value: number): number => Math.floor((value - 1) / STEP)
export const numberOfPiece = (value: number): number => (value - 1) % STEP

/** Radius of the ball that has the volume of a piece, m. */
export function pieceRadius({ volume }: MassProperties): number {
  const wanted = (3 * Math.max(0, volume)) / (4 * Math.PI)
  if (wanted === 0) return 0
  let r = 1
  while (r * r * r < wanted) r *= 2
  while (r * r * r > 8 * wanted) r /= 2
  for (let n = 0; n < 40; n++) r -= (r * r * r - wanted) / (3 * r * r)
  return r
}

/** Centre and radius of each piece, world size in the mesh's own frame. */
export const piecesAt = (mesh: Mesh, size: Vector) =>
  massProperties(mesh, size)
    .slice(0, pieceCount(mesh))
    .map((mass) => ({ centre: mass.centre, radius: pieceRadius(mass) }))
