/**
 * Pieces that are rigid bodies, as grains meet them: whoever collides with a broken mesh whose pieces are particles collides with
 * the pieces where they are, and pushes them back.
 */
import type { Machine } from '@tangle/kernels'
import { birthKind } from '../registry.ts'
import type { Shot } from '../document/types.ts'
import { massProperties, type MassProperties } from '../geometry/pieces.ts'
import { conjugate, quaternionOf, rotate, unitQuaternion } from '../math/quaternion.ts'
import {
  add,
  cross,
  dot,
  length,
  scale,
  subtract,
  vectorOf,
  writeVector,
  type Vector,
} from '../math/vector.ts'
import type { Body } from '../scene/body.ts'
import { nearSurface } from '../scene/distance.ts'
import { meshOfPiece, numberOfPiece } from '../scene/pieces.ts'
import { posedBody, type PiecePose, type PosedBody } from '../scene/posedBody.ts'
import { floats, positionsOfSome, words } from '../state/columns.ts'
import { isRigid } from './bodyShapes.ts'
import { meshesHit } from './covers.ts'
import type { Moment, PopulationState, World } from './world.ts'

/** Ids of broken meshes that something collides with and whose pieces are rigid bodies. */
function metMeshes({ populations }: Shot): Set<string> {
  const hit = new Set(populations.filter((one) => !isRigid(one)).flatMap(meshesHit))
  const broken = populations
    .filter(isRigid)
    .flatMap(({ births }) => births.flatMap(({ kind, mesh, muted }) => (birthKind(kind).makesPieces && !muted ? [mesh!] : [])))
  return new Set(broken.filter((mesh) => hit.has(mesh)))
} // prettier-ignore

/** By the id of their mesh; none where nobody meets them. */
export function createPosedPieces(machine: Machine, shot: Shot, bodies: Map<string, Body>): Map<string, PosedBody> {
  return new Map([...metMeshes(shot)].flatMap((id) => {
    const bare = bodies.get(id)
    return bare?.mesh.pieces ? [[id, posedBody(machine, bare, shot.frames.first)] as const] : []
  }))
} // prettier-ignore

/** Tells all of them where pieces are now, as of a frame. */
export function posePieces({ posed, populations, shot }: World, frame: number): void {
  for (const [id, one] of posed) {
    const number = shot.meshes.findIndex((mesh) => mesh.id === id)
    const poses = new Map<number, PiecePose>()
    for (const population of populations)
      for (const [piece, i] of piecesOf(population, number)) {
        const { columns } = population
        const turned = unitQuaternion(quaternionOf(floats(columns, 'orientation'), i))
        poses.set(piece, { place: vectorOf(floats(columns, 'position'), i), turned })
      }
    one.pose(frame, poses)
  }
}

/** The rows of the pieces of a mesh, by the number of the piece. */
function piecesOf({ source, columns }: PopulationState, mesh: number): Map<number, number> {
  const found = new Map<number, number>()
  if (!columns.at.piece || !isRigid(source)) return found
  words(columns, 'piece').forEach((piece, i) => {
    if (piece > 0 && meshOfPiece(piece) === mesh) found.set(numberOfPiece(piece), i)
  })
  return found
}

/** Velocities of grains that may hit pieces, before they do. */
export function rememberUnhit({ source, columns }: PopulationState, { posed, unhit }: Moment): void {
  if (posed.size > 0 && !isRigid(source) && meshesHit(source).some((mesh) => posed.has(mesh)))
    unhit.set(source.id, floats(columns, 'velocity').slice())
}

/** Grains whose speed changes by less than this have not been hit, m/s. */
const HIT = 1e-4
/** Pieces are moved that get more than this in a second, m/s²: what lies under dust may sleep on. */
const STIRS = 0.2

/** What grains have given up of their motion on pieces goes to those. */
export function pushPieces(moment: Moment): void {
  const { unhit, posed, populations, shot, h } = moment
  for (const population of populations) {
    const before = unhit.get(population.source.id)
    if (!before) continue
    for (const [id, body] of posed) {
      const number = shot.meshes.findIndex((mesh) => mesh.id === id)
      const owned = populations
        .map((one) => [one, piecesOf(one, number)] as const)
        .find(([, rows]) => rows.size > 0)
      if (!owned) continue
      const [owner, rows] = owned
      const masses = massProperties(body.body.mesh, body.body.size)
      for (const [piece, { impulse, turning }] of impulsesOn(population, before, body, owner, rows, moment))
        pushOne(owner, rows.get(piece)!, masses[piece]!, impulse, turning, STIRS * h)
    }
  }
}

interface Push {
  impulse: Vector
  /** About the centre of the piece, N·m·s. */
  turning: Vector
}

function impulsesOn(
  { columns }: PopulationState,
  before: Float32Array,
  { body, pieceOf }: PosedBody,
  owner: PopulationState,
  rows: Map<number, number>,
  { machine, to }: Moment,
): Map<number, Push> {
  const [velocity, radius, lightness] = [floats(columns, 'velocity'), floats(columns, 'radius'), floats(columns, 'inverseMass')] // prettier-ignore
  const gains = (i: number): Vector => subtract(vectorOf(velocity, i), vectorOf(before, i))
  const hit = [...radius.keys()].filter((i) => length(gains(i)) > HIT)
  const found = new Map<number, Push>()
  if (hit.length === 0) return found
  const points = positionsOfSome(columns, hit)
  const reach = 1.1 * Math.max(...hit.map((i) => radius[i]!))
  const near = nearSurface(machine, body, to, points, hit.length, false, reach)
  const [distance, triangle] = [machine.heap.f32(near.distance, hit.length), machine.heap.u32(near.triangle, hit.length)] // prettier-ignore
  const [feet, position] = [machine.heap.f32(near.point, hit.length * 3), floats(columns, 'position')]
  const [centres, pieceLightness] = [floats(owner.columns, 'position'), floats(owner.columns, 'inverseMass')]
  hit.forEach((i, n) => {
    if (distance[n]! > 1.1 * radius[i]!) return
    const piece = pieceOf[triangle[n]!]!
    const row = rows.get(piece)
    if (row === undefined) return
    const foot = vectorOf(feet, n)
    const off = subtract(vectorOf(position, i), foot)
    const size = length(off)
    const taken = size > 0 ? dot(gains(i), off) / size : 0
    if (taken <= 0) return
    // a heavy grain does not throw a light piece harder than it comes
    const mass = 1 / Math.max(lightness[i]!, pieceLightness[row]!, 1e-30)
    const impulse = scale(off, (-taken * mass) / size)
    const known = found.get(piece) ?? { impulse: [0, 0, 0], turning: [0, 0, 0] }
    found.set(piece, {
      impulse: add(known.impulse, impulse),
      turning: add(known.turning, cross(subtract(foot, vectorOf(centres, row)), impulse)),
    })
  })
  near.free()
  machine.heap.free(points)
  return found
}

function pushOne(
  { columns }: PopulationState,
  row: number,
  { inertia, axes, volume }: MassProperties,
  impulse: Vector,
  turning: Vector,
  least: number,
): void {
  const lightness = floats(columns, 'inverseMass')[row]!
  const gain = scale(impulse, lightness)
  if (length(gain) < least) return
  const [velocity, spin] = [floats(columns, 'velocity'), floats(columns, 'angularVelocity')]
  writeVector(velocity, row, add(vectorOf(velocity, row), gain))
  const turned = unitQuaternion(quaternionOf(floats(columns, 'orientation'), row))
  const inBody = rotate(conjugate(axes), rotate(conjugate(turned), turning))
  // inertia is that of density 1
  const given = inBody.map((l, k) => (l * lightness * volume) / Math.max(inertia[k]!, 1e-30)) as Vector
  writeVector(spin, row, add(vectorOf(spin, row), rotate(turned, rotate(axes, given))))
}
