/** The meshes of a shot at work, with the detail that is asked for. */
import type { Machine } from '@tangle/kernels'
import { meshFacts, type Mesh } from '../geometry/mesh.ts'
import { automaticDetail, refine } from '../geometry/refine.ts'
import type { Vector } from '../math/vector.ts'
import { derivedFrom, rootOf, standing } from '../document/derived.ts'
import { vectorAt } from '../document/keys.ts'
import type { Shot, ShotMesh } from '../document/types.ts'
import { createBody, type Body } from './body.ts'
import type { DeformationKind } from './deformation.ts'

/** What the key of a mesh follows from. */
export type KeyedShot = Pick<Shot, 'meshes' | 'masks' | 'frames' | 'seed'>

/**
 * Key of the mesh that a source names, in the map of meshes that a simulation is given. Of a mesh that is made of another it says all that
 * it is made from.
 */
export function sourceKey(source: ShotMesh['source'], shot: KeyedShot): string {
  if ('asset' in source) return source.asset
  if ('file' in source) return source.file
  if ('text' in source) return `text:${JSON.stringify(source.text)}`
  const made = derivedFrom(source)! // there are no other sources
  const parent = shot.meshes.find(({ id }) => id === made.mesh)
  const root = parent && rootOf(shot, parent)
  if (!root) return `of nothing: ${made.mesh}`
  const from = [
    sourceKey(parent.source, shot),
    vectorAt(root.place.scale, shot.frames.first),
    // a mask may read meshes that come by themselves, and other masks: all of them count
    made.mask === undefined
      ? null
      : [
          made.mask,
          shot.masks,
          shot.seed,
          shot.meshes.flatMap((m) => (derivedFrom(m.source) ? [] : [[m.id, m.source, m.place]])),
        ],
  ]
  // databases give keys back in an order of their own
  const own = Object.entries(Object.values(source as Record<string, object>)[0]!).sort(([a], [b]) =>
    a < b ? -1 : 1,
  )
  return `${made.by}:${JSON.stringify([from, own])}`
}

export class MissingMesh extends Error {
  readonly code = 'missing-mesh'
  constructor(name: string, asset: string) {
    super(
      asset.startsWith('sha256:')
        ? `The mesh "${name}" (${asset}) is not stored here: add its file again`
        : `The mesh "${name}" is not here yet: it has to be made first`,
    )
  }
}

const refined = new WeakMap<Mesh, Map<string, Mesh>>()

/** The mesh with the detail that the shot asks for; "auto" splits when `needed`. */
export function workingMesh(shotMesh: ShotMesh, mesh: Mesh, firstFrame: number, needed: boolean): Mesh {
  if (shotMesh.detail === 'auto' && !needed) return mesh
  const scale = vectorAt(shotMesh.place.scale, firstFrame)
  const facts = meshFacts(mesh)
  const size = scale.map((s, axis) => (facts.high[axis]! - facts.low[axis]!) * Math.abs(s)) as Vector
  const mean = (Math.abs(scale[0]) + Math.abs(scale[1]) + Math.abs(scale[2])) / 3
  const diagonal = Math.sqrt(size[0] ** 2 + size[1] ** 2 + size[2] ** 2)
  const longest =
    shotMesh.detail === 'auto' ? automaticDetail(facts.area * mean * mean, diagonal) : shotMesh.detail
  const key = `${longest} ${scale.join()}`
  const known = refined.get(mesh) ?? new Map<string, Mesh>()
  refined.set(mesh, known)
  const found = known.get(key) ?? refine(mesh, longest, scale)
  known.set(key, found)
  return found
}

/** Bodies of the meshes with these ids. `meshes` are by `sourceKey`, welded; "auto" splits those in `fine`. */
export function createBodies(
  machine: Machine,
  shot: Shot,
  meshes: Map<string, Mesh>,
  ids: Set<string>,
  fine: Set<string>,
  kinds: DeformationKind[],
): Map<string, Body> {
  const bodies = new Map<string, Body>()
  shot.meshes.forEach((shotMesh, i) => {
    if (!ids.has(shotMesh.id)) return
    const key = sourceKey(shotMesh.source, shot)
    const mesh = meshes.get(key)
    if (!mesh) throw new MissingMesh(shotMesh.name, key)
    // pieces stay as they were broken
    const working = mesh.pieces ? mesh : workingMesh(shotMesh, mesh, shot.frames.first, fine.has(shotMesh.id))
    bodies.set(shotMesh.id, createBody(machine, shot, standing(shot, shotMesh), i + 1, working, kinds))
  })
  return bodies
}
