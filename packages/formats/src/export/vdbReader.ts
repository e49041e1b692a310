/** Our own reader of what vdb.ts writes, for `verify` and tests: every value is there and is a number. */
import { unzlibSync } from 'fflate'
import { FormatFault } from '../fault.ts'
import { LOWER, NO_INACTIVE, UPPER, VDB_MAGIC, VDB_VERSION, ZIP_AND_MASK } from './vdbBytes.ts'
import { BLOCK } from './splat.ts'

export interface VdbGrid {
  name: string
  width: 1 | 3
  voxel: number
  /** Values of the voxels in which something is, by "x y z". */
  voxels: Map<string, number[]>
}

type Place = [number, number, number]

/** The bytes of a file as they are gone through. */
function createCursor(file: string, bytes: Uint8Array) {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  let at = 0
  const take = (size: number): number => {
    if (size < 0 || at + size > bytes.length) throw new FormatFault(file, 'is cut off')
    at += size
    return at - size
  }
  const word = (): number => view.getInt32(take(4), true)
  const part = (size: number): Uint8Array => {
    const from = take(size)
    return bytes.subarray(from, from + size)
  }
  const text = (): string => new TextDecoder().decode(part(word()))
  const unpacked = (packed: Uint8Array): Uint8Array => {
    try {
      return unzlibSync(packed)
    } catch (error) {
      throw new FormatFault(file, `has a block that is broken (${(error as Error).message})`)
    }
  }
  return {
    take,
    word,
    text,
    double: (): number => view.getFloat64(take(8), true),
    skipMetadata(): void {
      for (let left = word(); left > 0; left--) {
        text()
        text()
        take(word())
      }
    },
    /** Places whose bit is set. */
    mask(places: number): number[] {
      const bits = part(places / 8)
      return Array.from({ length: places }, (_, i) => i).filter((i) => (bits[i >> 3]! >> (i & 7)) & 1)
    },
    /** So many f32, zipped or not, after a byte that says how what is inactive is told. */
    values(count: number): Float32Array {
      if (part(1)[0] !== NO_INACTIVE) throw new FormatFault(file, 'has values of what is empty')
      const size = Number(view.getBigInt64(take(8), true))
      const packed = part(Math.abs(size))
      const raw = size > 0 ? unpacked(packed) : packed
      if (raw.length !== count * 4) throw new FormatFault(file, 'has a block that is not whole')
      return new Float32Array(Uint8Array.from(raw).buffer)
    },
  }
}
type Cursor = ReturnType<typeof createCursor>

/** @throws FormatFault where it is not whole, or a value is no number. */
export function readVdb(file: string, bytes: Uint8Array): VdbGrid[] {
  const cursor = createCursor(file, bytes)
  const { take, word, skipMetadata } = cursor
  if (bytes.length < 12 || word() !== VDB_MAGIC) throw new FormatFault(file, 'is no OpenVDB file')
  take(4)
  if (word() !== VDB_VERSION) throw new FormatFault(file, 'is of another version')
  take(8 + 1 + 36)
  skipMetadata()
  return Array.from({ length: word() }, () => gridIn(file, cursor))
}

function gridIn(file: string, cursor: Cursor): VdbGrid {
  const { take, word, text, double, skipMetadata, mask, values } = cursor
  const name = text()
  const width = text().includes('vec3s') ? 3 : 1
  text()
  take(3 * 8)
  if (word() !== ZIP_AND_MASK) throw new FormatFault(file, 'is packed in another way')
  skipMetadata()
  text()
  const voxel = double()
  take(14 * 8)
  word()
  take(4 * width)
  const voxels: VdbGrid['voxels'] = new Map()
  for (const [told, origin] of topologyIn(file, cursor)) {
    const active = mask(BLOCK ** 3)
    if (active.join() !== told.join()) throw new FormatFault(file, 'has a block that is not as it says')
    const all = values(active.length * width)
    active.forEach((place, n) => {
      const value = [...all.subarray(n * width, (n + 1) * width)]
      const where = placed(origin, place, BLOCK, 1).join(' ')
      if (!value.every(Number.isFinite)) throw new FormatFault(file, `${name} is no number at ${where}`)
      voxels.set(where, value)
    })
  }
  return { name, width, voxel, voxels }
}

/** The blocks in their order, with the voxels that are active. */
function topologyIn(file: string, { word, mask, values }: Cursor): [active: number[], origin: Place][] {
  const inner = (across: number): number[] => {
    const children = mask(across ** 3)
    if (mask(across ** 3).length > 0) throw new FormatFault(file, 'has tiles')
    values(0)
    return children
  }
  const blocks: [number[], Place][] = []
  if (word() !== 0) throw new FormatFault(file, 'has tiles')
  for (let left = word(); left > 0; left--) {
    const upper: Place = [word(), word(), word()]
    const lowers = inner(UPPER / LOWER).map((place) => placed(upper, place, UPPER / LOWER, LOWER))
    for (const lower of lowers)
      for (const place of inner(LOWER / BLOCK))
        blocks.push([mask(BLOCK ** 3), placed(lower, place, LOWER / BLOCK, BLOCK)])
  }
  return blocks
}

const placed = ([x, y, z]: Place, place: number, across: number, size: number): Place => [
  x + Math.floor(place / across ** 2) * size,
  y + (Math.floor(place / across) % across) * size,
  z + (place % across) * size,
]
