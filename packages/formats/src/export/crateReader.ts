/** Our own reader of crates, of what ours hold: the time samples of prims. See crate.ts. */
import { fromHalf } from '@tangle/core'
import { FormatFault } from '../fault.ts'
import { ARRAY, END, HEAD_BYTES, INLINED, MAGIC, PACKED, SPEC, TYPE } from './crate.ts'
import type { Value } from './crateBytes.ts'
import { unpackBytes, unpackIntegers } from './crateCodes.ts'
import type { PrimSamples } from './usdReader.ts'
import { ID } from './usdPrim.ts'

/** @throws FormatFault where it is no crate, of another version, or not whole. */
export function readCrate(bytes: Uint8Array): PrimSamples[] {
  const { text } = cursorOver(bytes)
  if (bytes.length < HEAD_BYTES || text(MAGIC.length) !== MAGIC)
    throw new FormatFault('byte 0', 'these are not the bytes of a USD crate')
  if (bytes[8] !== 0 || bytes[9] !== 8)
    throw new FormatFault('byte 8', `is of version ${bytes[8]}.${bytes[9]}; only 0.8 is read`)
  try {
    return primsIn(bytes)
  } catch (error) {
    throw new FormatFault('end of file', `the crate is broken or cut off (${(error as Error).message})`)
  }
}

/** Reads on from a place. */
function cursorOver(bytes: Uint8Array) {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  let at = 0
  const take = (length: number): Uint8Array => {
    if (at + length > bytes.length) throw new RangeError(`byte ${bytes.length} is the last`)
    return bytes.subarray(at, (at += length))
  }
  const size = (): number => Number(view.getBigUint64((at += 8) - 8, true))
  const counted = (): Uint8Array => take(size())
  return {
    view,
    get at() {
      return at
    },
    go(to: number): void {
      at = to
    },
    /** To a place that is said by how far on it is. */
    goOn(): void {
      const start = at
      at = start + size()
    },
    take,
    text: (length: number): string => new TextDecoder().decode(take(length)).replace(/\0.*$/, ''),
    size,
    counted,
    integers: (length: number): Float64Array => unpackIntegers(counted(), length, 4),
    value: (): Value => valueAt(view, (at += 8) - 8),
  }
}
type Cursor = ReturnType<typeof cursorOver>

const valueAt = (view: DataView, at: number): Value => [
  view.getUint32(at + 4, true),
  view.getUint32(at, true),
]
const placeOf = ([high, low]: Value): number => (high & 0xffff) * 2 ** 32 + low

function primsIn(bytes: Uint8Array): PrimSamples[] {
  const cursor = cursorOver(bytes)
  const prims = new Map<string, PrimSamples>()
  for (const { path, kind, fields } of specsIn(cursor)) {
    if (kind === SPEC.prim)
      prims.set(path, { type: fields.type, id: path.slice(path.lastIndexOf('/') + 1), samples: new Map() })
    if (kind !== SPEC.attribute) continue
    const dot = path.lastIndexOf('.')
    if (path.slice(dot + 1) === ID) prims.get(path.slice(0, dot))!.id = fields.token
    if (!fields.samples) continue
    const attribute = path.slice(dot + 1).replace('primvars:', '')
    const { samples } = prims.get(path.slice(0, dot))!
    for (const [frame, values] of samplesAt(cursor, fields.samples))
      samples.set(frame, { ...samples.get(frame), [attribute]: values })
  }
  return [...prims.values()]
}

/** The paths of a crate with what we want of their fields. */
function specsIn(cursor: Cursor) {
  cursor.go(16)
  cursor.go(cursor.size())
  const tables = new Map<string, number>()
  for (let left = cursor.size(); left > 0; left--) {
    tables.set(cursor.text(16), cursor.size())
    cursor.size()
  }
  /** To the beginning of a table. Returns how many entries it has. */
  const begin = (name: string): number => {
    const start = tables.get(name)
    if (start === undefined) throw new RangeError(`${name} are missing`)
    cursor.go(start)
    return cursor.size()
  }
  begin('TOKENS')
  const textBytes = cursor.size()
  const tokens = new TextDecoder().decode(unpackBytes(cursor.counted(), textBytes)).split('\0')
  const fieldCount = begin('FIELDS')
  const names = cursor.integers(fieldCount)
  const values = unpackBytes(cursor.counted(), fieldCount * 8)
  const valueView = new DataView(values.buffer, values.byteOffset, values.byteLength)
  const sets = cursor.integers(begin('FIELDSETS'))
  const pathCount = begin('PATHS')
  cursor.size()
  const [order, elements, jumps] = [0, 1, 2].map(() => cursor.integers(pathCount))
  const paths = pathsOf(order!, elements!, jumps!, tokens)
  const specCount = begin('SPECS')
  const [path, set, kind] = [0, 1, 2].map(() => cursor.integers(specCount))
  const fieldsOf = (first: number): { type: string; token: string; samples?: Value } => {
    const found = new Map<string, Value>()
    for (let n = first; n < sets.length && sets[n]! >>> 0 !== END; n++)
      found.set(tokens[names[sets[n]!]!]!, valueAt(valueView, sets[n]! * 8))
    const tokenIn = (field: string): string => {
      const [high, low] = found.get(field) ?? [0, 0]
      return high === (INLINED | (TYPE.token << 16)) >>> 0 ? tokens[low]! : ''
    }
    const samples = found.get('timeSamples')
    return { type: tokenIn('typeName'), token: tokenIn('default'), ...(samples ? { samples } : {}) }
  }
  return Array.from({ length: specCount }, (_, n) => ({ path: paths[path![n]!]!, kind: kind![n]!, fields: fieldsOf(set![n]!) })) // prettier-ignore
}

function pathsOf(
  order: Float64Array,
  elements: Float64Array,
  jumps: Float64Array,
  tokens: string[],
): string[] {
  const paths: string[] = []
  const visit = (from: number, above: string | null): void => {
    let parent = above
    for (let n = from; n < order.length; n++) {
      const element = elements[n]!
      const name = tokens[Math.abs(element)]!
      const path: string = parent === null ? '' : `${parent}${element < 0 ? '.' : '/'}${name}`
      paths[order[n]!] = path
      const jump = jumps[n]!
      if (jump === -2) return
      if (jump > 0) visit(n + jump, parent)
      if (jump !== 0) parent = path
    }
  }
  visit(0, null)
  return paths
}

/** What an attribute is at each frame. */
function samplesAt(cursor: Cursor, value: Value): [frame: number, values: number[]][] {
  cursor.go(placeOf(value))
  cursor.goOn()
  const times = cursor.value()
  cursor.goOn()
  const values = Array.from({ length: cursor.size() }, cursor.value)
  cursor.go(placeOf(times))
  const frames = Array.from({ length: cursor.size() }, (_, n) => cursor.view.getFloat64(cursor.at + n * 8, true)) // prettier-ignore
  return frames.map((frame, n) => [frame, arrayAt(cursor, values[n]!)])
}

const ELEMENTS: Record<number, { width: number; bytes: number; read(view: DataView, at: number): number }> = {
  [TYPE.int]: { width: 1, bytes: 4, read: (view, at) => view.getInt32(at, true) },
  [TYPE.int64]: { width: 1, bytes: 8, read: (view, at) => Number(view.getBigInt64(at, true)) },
  [TYPE.float]: { width: 1, bytes: 4, read: (view, at) => view.getFloat32(at, true) },
  [TYPE.vec2f]: { width: 2, bytes: 4, read: (view, at) => view.getFloat32(at, true) },
  [TYPE.vec3f]: { width: 3, bytes: 4, read: (view, at) => view.getFloat32(at, true) },
  [TYPE.quatf]: { width: 4, bytes: 4, read: (view, at) => view.getFloat32(at, true) },
  [TYPE.quath]: { width: 4, bytes: 2, read: (view, at) => fromHalf(view.getUint16(at, true)) },
}

function arrayAt(cursor: Cursor, value: Value): number[] {
  const [high] = value
  const type = (high >>> 16) & 0xff
  const from = placeOf(value)
  if ((high & ARRAY) === 0 || from === 0) return []
  cursor.go(from)
  const length = cursor.size()
  if ((high & PACKED) !== 0)
    return Array.from(unpackIntegers(cursor.counted(), length, type === TYPE.int64 ? 8 : 4))
  const element = ELEMENTS[type]
  if (!element) throw new RangeError(`there is an array of the type ${type}`)
  const { width, bytes, read } = element
  const { byteOffset, buffer } = cursor.take(length * width * bytes)
  const view = new DataView(buffer, byteOffset, length * width * bytes)
  return Array.from({ length: length * width }, (_, n) => read(view, n * bytes))
}
