/** What a GLB claims to hold, against the bytes that it has: checked before memory is taken for it. */
import { FormatFault } from '../fault.ts'

/** Components of an accessor, and bytes of one (glTF 2.0, §3.6.2.2). */
const WIDTHS: Record<string, number> = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4, MAT2: 4, MAT3: 9, MAT4: 16 }
const BYTES: Record<number, number> = { 5120: 1, 5121: 1, 5122: 2, 5123: 2, 5125: 4, 5126: 4 }
/** Vertices and corners of all meshes as the scene places them, together. */
const MOST_PLACED = 30_000_000

interface Accessor {
  bufferView?: number
  byteOffset?: number
  componentType: number
  count: number
  type: string
  sparse?: { count: number }
}
interface Claims {
  accessors?: Accessor[]
  bufferViews?: { byteOffset?: number; byteLength: number; byteStride?: number }[]
  nodes?: { mesh?: number; children?: number[] }[]
  meshes?: { primitives: { attributes: Record<string, number>; indices?: number }[] }[]
}

/** @throws FormatFault for what the file claims and cannot hold. */
export function checkGlb(bytes: Uint8Array): void {
  const data = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const length = data.getUint32(12, true)
  if (20 + length > bytes.length) throw new FormatFault('byte 12', 'the description is cut off')
  let claims: Claims
  try {
    claims = JSON.parse(new TextDecoder().decode(bytes.subarray(20, 20 + length))) as Claims
  } catch (error) {
    throw new FormatFault('byte 20', `the description is not JSON: ${(error as Error).message}`)
  }
  claims.bufferViews?.forEach(({ byteOffset = 0, byteLength }, i) => {
    if (!(byteOffset >= 0 && byteLength >= 0 && byteOffset + byteLength <= bytes.length))
      throw new FormatFault(`buffer view ${i}`, 'reaches beyond the file: it is cut off, or damaged')
  })
  claims.accessors?.forEach((accessor, i) => checkAccessor(accessor, i, claims))
  checkPlaced(claims)
}

function checkAccessor(
  { bufferView, byteOffset = 0, ...accessor }: Accessor,
  i: number,
  claims: Claims,
): void {
  const where = `accessor ${i}`
  const { count, sparse } = accessor
  const size = (WIDTHS[accessor.type] ?? NaN) * (BYTES[accessor.componentType] ?? NaN)
  if (!(Number.isInteger(count) && count >= 0 && size > 0))
    throw new FormatFault(where, 'is none that glTF knows')
  if (bufferView === undefined) {
    // zeros but for a few: allowed, and no larger than what a scene may have
    if (!sparse || count > MOST_PLACED) throw new FormatFault(where, `says ${count} entries, but has no data`)
    return
  }
  const view = claims.bufferViews?.[bufferView]
  const stride = view?.byteStride ?? size
  if (!view || (count > 0 && byteOffset + (count - 1) * stride + size > view.byteLength))
    throw new FormatFault(where, `says ${count} entries, more than there is data for`)
}

/** Nodes are a tree, and what it places in all is bounded: a small file can place one mesh very often. */
function checkPlaced({ nodes = [], meshes = [], accessors = [] }: Claims): void {
  const parents = new Set<number>()
  for (const child of nodes.flatMap((node) => node.children ?? [])) {
    if (parents.has(child))
      throw new FormatFault(`node ${child}`, 'hangs on two others: nodes must be a tree')
    parents.add(child)
  }
  const countOf = (accessor: number | undefined): number => accessors[accessor ?? -1]?.count ?? 0
  const sizes = meshes.map(({ primitives }) =>
    primitives.reduce((sum, p) => sum + countOf(p.attributes.POSITION) + countOf(p.indices), 0),
  )
  const placed = nodes.reduce((sum, { mesh }) => sum + (sizes[mesh ?? -1] ?? 0), 0)
  if (!(placed <= MOST_PLACED))
    throw new FormatFault(
      'scene',
      `has ${placed} vertices and corners, and at most ${MOST_PLACED} are read: make it smaller`,
    )
}
