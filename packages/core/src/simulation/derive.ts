/** Makes the meshes of a shot that are made of others: broken ones, and shells. */
import type { ManifoldToplevel } from 'manifold-3d'
import type { Machine } from '@tangle/kernels'
import { derivedFrom, rootOf } from '../document/derived.ts'
import { vectorAt } from '../document/keys.ts'
import type { Shot, ShotMesh } from '../document/types.ts'
import { fracture } from '../fracture/fracture.ts'
import type { DensityAt } from '../fracture/seeds.ts'
import { shellOf } from '../fracture/shell.ts'
import { boundMotion } from '../geometry/boundMotion.ts'
import type { Mesh } from '../geometry/mesh.ts'
import { transform, vectorOf, type Vector } from '../math/vector.ts'
import { placeAt } from '../scene/body.ts'
import { sourceKey } from '../scene/bodies.ts'
import { meshesInUse } from '../schema/references.ts'
import { createScene } from './scene.ts'

export interface DeriveTools {
  manifold: ManifoldToplevel
  machine: Machine
  /** Told which mesh is being made, and what share of it is done. */
  progress?(mesh: string, share: number): void
}

/** Why a mesh could not be made. */
export class DeriveFault extends Error {
  readonly code = 'derive'
  constructor(
    /** Id of the mesh. */
    readonly mesh: string,
    message: string,
  ) {
    super(message)
  }
}

/** The meshes of a shot that have still to be made, each after those it is made of. */
export function underived(shot: Shot, meshes: Map<string, unknown>): ShotMesh[] {
  const depth = (mesh: ShotMesh): number => {
    const made = derivedFrom(mesh.source)
    const parent = made && shot.meshes.find(({ id }) => id === made.mesh)
    return parent ? 1 + depth(parent) : 0
  }
  return shot.meshes
    .filter(
      (mesh) => derivedFrom(mesh.source) && rootOf(shot, mesh) && !meshes.has(sourceKey(mesh.source, shot)),
    )
    .sort((a, b) => depth(a) - depth(b))
}

/**
 * Makes one of them. `meshes` are by `sourceKey`; the one that it is made of is among them.
 * @throws DeriveFault
 */
export function derive(tools: DeriveTools, shot: Shot, shotMesh: ShotMesh, meshes: Map<string, Mesh>): Mesh {
  const { source } = shotMesh
  const made = derivedFrom(source)! // who calls has seen that it is
  const parent = shot.meshes.find(({ id }) => id === made.mesh)!
  const mesh = meshes.get(sourceKey(parent.source, shot))
  if (!mesh) throw new DeriveFault(shotMesh.id, `${shotMesh.name}: the mesh "${parent.name}" that it is made of is not here`) // prettier-ignore
  const size = vectorAt(rootOf(shot, parent)!.place.scale, shot.frames.first).map((s) => Math.max(1e-9, Math.abs(s))) as Vector // prettier-ignore
  const sized = { ...mesh, positions: mesh.positions.map((x, k) => x * size[k % 3]!) }
  const { manifold, machine } = tools
  const progress = (share: number): void => tools.progress?.(shotMesh.id, share)
  try {
    const out =
      'fracture' in source
        ? fracture(
            { manifold, machine, progress, density: densityOf(tools, shot, parent, meshes, made.mask) },
            { positions: sized.positions, triangles: mesh.triangles, ...(mesh.uvs ? { uvs: mesh.uvs } : {}) },
            source.fracture,
          )
        : shellOf(
            { manifold, machine, progress },
            sized,
            (source as { shell: Parameters<typeof shellOf>[2] }).shell,
          )
    const rest = unsized(out, size, mesh)
    const motion = boundMotion(machine, rest.positions, mesh)
    return motion ? { ...rest, motion } : rest
  } catch (error) {
    throw new DeriveFault(shotMesh.id, `${shotMesh.name}: ${parent.name} can't be ${'fracture' in source ? 'broken' : 'given a shell'}: ${(error as Error).message}`) // prettier-ignore
  }
}

/** From world size back to the mesh's own space. */
function unsized(out: Mesh, size: Vector, parent: Mesh): Mesh {
  const back = (values: Float32Array): Float32Array => values.map((x, k) => x / size[k % 3]!)
  const { pieces } = out
  return {
    ...out,
    positions: back(out.positions),
    ...(out.splitFrom ? { splitFrom: { ...out.splitFrom, mesh: { positions: parent.positions, triangles: parent.triangles } } } : {}),
    ...(pieces ? { pieces: { ...pieces, seeds: back(pieces.seeds), hulls: { ...pieces.hulls, points: back(pieces.hulls.points) }, bonds: { ...pieces.bonds, centres: back(pieces.bonds.centres) } } } : {}),
  } // prettier-ignore
}

/** A mask at places of the mesh in world size, as it stands at the first frame. */
function densityOf(
  { machine }: DeriveTools,
  shot: Shot,
  parent: ShotMesh,
  meshes: Map<string, Mesh>,
  mask: string | undefined,
): DensityAt {
  if (mask === undefined) return null
  return (points) => {
    const bare = { ...shot, populations: [] }
    const scene = createScene(machine, shot, meshes, meshesInUse(bare))
    const { place } = rootOf(shot, parent)!
    const stands = placeAt({ ...place, scale: [1, 1, 1] }, shot.frames.first)
    const count = points.length / 3
    const [positions, out] = [count * 12, count * 4].map((bytes) => machine.heap.allocate(bytes)) as [
      number,
      number,
    ]
    const world = machine.heap.f32(positions, count * 3)
    for (let k = 0; k < count; k++) world.set(transform(stands, vectorOf(points, k)), k * 3)
    scene.masks.write(mask, { count, positions, frame: shot.frames.first }, out)
    const values = machine.heap.f32(out, count).slice()
    for (const pointer of [positions, out]) machine.heap.free(pointer)
    scene.dispose()
    return values
  }
}
