import { facingOutward, weld, type Mesh } from '@tangle/core'
import { FormatFault } from '../fault.ts'
import { readCsv } from './csv.ts'
import { readGlb } from './glb.ts'
import type { FileMaterial, FileMesh } from './glbPaint.ts'
import { readObj } from './obj.ts'
import { readPlyMesh } from './plyMesh.ts'
import { readSequence } from './sequence.ts'
import { readStl } from './stl.ts'

/** Every mesh format that can be read, by file ending. */
const READERS: Record<string, (bytes: Uint8Array) => FileMesh | Promise<FileMesh>> = {
  obj: readObj,
  ply: readPlyMesh,
  stl: readStl,
  glb: readGlb,
  csv: readCsv,
  zip: (bytes) => readSequence(bytes, readFile),
}
/** Formats that may hold nothing but points. */
const POINTS = ['csv', 'ply', 'zip']
export const MESH_ENDINGS = Object.keys(READERS)

const endingOf = (name: string): string => name.toLowerCase().split('.').at(-1) ?? ''

/** As it is in the file. @throws FormatFault */
async function readFile(name: string, bytes: Uint8Array): Promise<FileMesh> {
  const read = READERS[endingOf(name)]
  if (!read)
    throw new FormatFault(
      name,
      `is not one of ${MESH_ENDINGS.join(', ').toUpperCase()}: save it as one of these`,
    )
  if (bytes.length === 0) throw new FormatFault(name, 'the file is empty')
  return read(bytes)
}

/**
 * Reads a mesh file, checks it and welds its vertices.
 * @throws FormatFault with the line or byte and the reason.
 */
export const readMesh = async (name: string, bytes: Uint8Array): Promise<Mesh> =>
  (await readPainted(name, bytes)).mesh

/** The materials of the file that a mesh was read from, in this process: what `materials` of the mesh names. */
export const fileMaterialsOf = (mesh: Mesh): FileMaterial[] => painted.get(mesh) ?? []
const painted = new WeakMap<Mesh, FileMaterial[]>()

/**
 * A mesh file with the materials that its triangles name, for drawing it.
 * @throws FormatFault as readMesh
 */
export async function readPainted(
  name: string,
  bytes: Uint8Array,
): Promise<{ mesh: Mesh; materials: FileMaterial[] }> {
  const { fileMaterials: materials = [], ...read } = await readFile(name, bytes)
  const mesh = checked(name, read)
  if (materials.length > 0) painted.set(mesh, materials)
  return { mesh, materials }
}

function checked(name: string, mesh: Mesh): Mesh {
  // a set of points keeps every one of them
  if (mesh.triangles.length === 0 && mesh.positions.length > 0 && POINTS.includes(endingOf(name))) return mesh
  const welded = weld(mesh)
  if (welded.triangles.length === 0) throw new FormatFault(name, 'has no triangles: a mesh needs a surface')
  return facingOutward(welded)
}
