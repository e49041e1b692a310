/** Reads back what glb.ts wrote. */
import type { MeshFrame, PopulationFrame } from '@tangle/core'
import type { Document, Primitive } from '@gltf-transform/core'
import { FormatFault } from '../fault.ts'
import type { CachedFrame } from '../frames/cachedFrame.ts'
import { rowsOf } from './glbSurfaces.ts'

/** A frame as `glb.ts` writes it. @throws FormatFault */
export function frameIn(file: string, frame: number, document: Document): CachedFrame {
  const out: CachedFrame = { frame, populations: [], meshes: [] }
  const scene = document.getRoot().listScenes()[0]
  if (!scene) throw new FormatFault(file, 'has no scene')
  for (const node of scene.listChildren()) {
    const { of, id = '', kept = [], parted = false } = node.getExtras() as { of?: string; id?: string; kept?: string[]; parted?: boolean } // prettier-ignore
    const primitive = node.getMesh()?.listPrimitives()[0]
    if (of === 'mesh') {
      out.meshes.push({ id, ...surfaceIn(node.getMesh()?.listPrimitives() ?? [], parted) })
    }
    if (of !== 'particles') continue
    const batches = node
      .listChildren()
      .map((child) => child.getExtension('EXT_mesh_gpu_instancing') as unknown as Primitive)
    out.populations.push(populationIn(id, kept, primitive ? [primitive] : batches))
  }
  return out
}

/** The primitives of a mesh share their vertices, or each has its own. */
function surfaceIn(primitives: Primitive[], parted: boolean): Pick<MeshFrame, 'positions' | 'triangles'> {
  const positionsOf = (one: Primitive): number[] => Array.from(one.getAttribute('POSITION')?.getArray() ?? [])
  const trianglesOf = (one: Primitive): number[] => Array.from(one.getIndices()?.getArray() ?? [])
  const positions = (parted ? primitives : primitives.slice(0, 1)).flatMap(positionsOf)
  let first = 0
  const triangles = primitives.flatMap((one) => {
    const own = trianglesOf(one).map((v) => v + first)
    if (parted) first += positionsOf(one).length / 3
    return own
  })
  return { positions: Float32Array.from(positions), triangles: Uint32Array.from(triangles) }
}

/** Particles of one or several lists, by their ids, which ascend in every column. */
function populationIn(id: string, kept: string[], lists: Pick<Primitive, 'getAttribute'>[]): PopulationFrame {
  const all = (names: string[]): number[] =>
    lists.flatMap((list) => Array.from(names.map((name) => list.getAttribute(name)?.getArray()).find(Boolean) ?? [])) // prettier-ignore
  const words = all(['_ID'])
  const ids = Array.from({ length: words.length / 2 }, (_, i) => words[i * 2]! + words[i * 2 + 1]! * 65536)
  const order = Array.from(ids.keys()).sort((a, b) => ids[a]! - ids[b]!)
  const sorted = (width: number, ...names: string[]): Float32Array =>
    rowsOf({ name: id, values: Float32Array.from(all(names)), width }, order) as Float32Array
  return {
    id,
    count: ids.length,
    columns: {
      id: Uint32Array.from(order, (from) => ids[from]!),
      position: sorted(3, 'POSITION', 'TRANSLATION'),
      ...(kept.includes('velocity') ? { velocity: sorted(3, '_VELOCITY') } : {}),
      ...(kept.includes('radius') ? { radius: sorted(1, '_RADIUS') } : {}),
    },
  }
}
