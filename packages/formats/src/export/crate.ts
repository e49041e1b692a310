/**
 * The crate of Universal Scene Description, its binary form, version 0.8. A head of 88 bytes is followed by values, then by tables: tokens, fields
 * (a name and a value each), sets of fields, paths, and specs (a path, a set of fields and a kind each), and at last by where those are. A value is
 * 64 bits: what it is, and either itself or the byte at which it stands. Arrays that come again are written once. Sources: OpenUSD, pxr/usd/sdf/crateFile.cpp;
 * AOUSD Core Specification, chapter 16.
 */
import { toHalf } from '@tangle/core'
import { hashOf } from '../contents.ts'
import { bytesOfValues, createBytes, type CrateBytes, type Value } from './crateBytes.ts'
import { packBytes, packIntegers } from './crateCodes.ts'

export const MAGIC = 'PXR-USDC'
export const HEAD_BYTES = 88
/** Numbers of the types that we write. */
export const TYPE = {
  int: 3,
  int64: 5,
  float: 8,
  double: 9,
  string: 10,
  token: 11,
  quatf: 17,
  quath: 18,
  vec2f: 20,
  vec3f: 24,
  tokenListOp: 32,
  pathListOp: 34,
  tokenVector: 41,
  specifier: 42,
  variability: 44,
  timeSamples: 46,
  doubleVector: 48,
} as const
/** Flags of a value, in its upper 32 bits. */
export const [ARRAY, INLINED, PACKED] = [2 ** 31, 2 ** 30, 2 ** 29]
export const SPEC = { attribute: 1, prim: 6, root: 7, relationship: 8 } as const
/** Shorter arrays of whole numbers are not packed. */
const LEAST_PACKED = 16
/** Ends a set of fields. */
export const END = 0xffffffff
/** Before the items of a list of paths: these, and no others. */
const EXPLICIT = 1 | 2
/** And: these before all others. */
const PREPENDED = 32

export type Fields = Record<string, Value>

/** The element type of an array by its declaration, as in `point3f[] points`. */
export function typeOf(declaration: string): number {
  const name = declaration.split('[')[0]!
  const isPlain =
    name === 'int' || name === 'int64' || name === 'float' || name === 'quatf' || name === 'quath'
  if (name === 'texCoord2f') return TYPE.vec2f
  return isPlain ? TYPE[name] : TYPE.vec3f
}
const WIDTH: Partial<Record<number, number>> = {
  [TYPE.vec2f]: 2,
  [TYPE.vec3f]: 3,
  [TYPE.quatf]: 4,
  [TYPE.quath]: 4,
}

export type Crate = ReturnType<typeof createCrate>

/** Collects a crate; bytes that are ready wait in `pieces`, to be taken out in order. */
export function createCrate(tocOffset: number) {
  const bytes = createBytes()
  const names = createNames()
  const specs: Spec[] = []
  const paths: Path[] = []
  bytes.emit(new TextEncoder().encode(MAGIC))
  bytes.emit(Uint8Array.of(0, 8, 0, 0, 0, 0, 0, 0))
  bytes.emitSizes(tocOffset, ...new Array<number>(8).fill(0))
  return {
    pieces: bytes.pieces,
    value: createValues(bytes, names),
    /** A path below another, or the root of all. Returns its number. */
    path(above: number | null, name: string, isProperty = false): number {
      paths.push({ name: names.token(name), isProperty, below: [] })
      if (above !== null) paths[above]!.below.push(paths.length - 1)
      return paths.length - 1
    },
    spec: (path: number, kind: number, fields: Fields) => void specs.push({ path, kind, fields }),
    /** Writes the tables. Returns the byte at which it says where they are. */
    finish: () => writeTables(bytes, names, specs, paths),
  }
}

/** Tokens and strings by their numbers. */
type Names = ReturnType<typeof createNames>
function createNames() {
  // a property is told by the sign of its name's number, so the first token is nobody's
  const tokens = new Map<string, number>([[';-)', 0]])
  const strings: number[] = []
  const token = (text: string): number => {
    const known = tokens.get(text) ?? tokens.size
    tokens.set(text, known)
    return known
  }
  return { tokens, strings, token, string: (text: string): number => strings.push(token(text)) - 1 }
}

const placed = (type: number, offset: number, flags = 0): Value => [
  (flags + type * 2 ** 16 + Math.floor(offset / 2 ** 32)) >>> 0,
  offset >>> 0,
]
const inlined = (type: number, bits: number): Value => [(INLINED + type * 2 ** 16) >>> 0, bits >>> 0]

/** What fields may hold. */
function createValues(bytes: CrateBytes, { token, string }: Names) {
  /** Arrays that are written, by their contents. */
  const written = new Map<string, Value>()
  return {
    token: (text: string): Value => inlined(TYPE.token, token(text)),
    string: (text: string): Value => inlined(TYPE.string, string(text)),
    /** What f32 holds exactly stands in the value itself. */
    double(number: number): Value {
      if (Math.fround(number) === number)
        return inlined(TYPE.double, new Uint32Array(Float32Array.of(number).buffer)[0]!)
      const offset = bytes.align()
      bytes.emitDoubles([number])
      return placed(TYPE.double, offset)
    },
    /** `def`. */
    specifier: (): Value => inlined(TYPE.specifier, 0),
    uniform: (): Value => inlined(TYPE.variability, 1),
    tokens(list: string[]): Value {
      const offset = bytes.align()
      bytes.emitSizes(list.length)
      bytes.emitWords(list.map(token))
      return placed(TYPE.tokenVector, offset)
    },
    /** Tokens that come before those of weaker layers. */
    prepended(list: string[]): Value {
      const offset = bytes.align()
      bytes.emit(Uint8Array.of(PREPENDED))
      bytes.emitSizes(list.length)
      bytes.emitWords(list.map(token))
      return placed(TYPE.tokenListOp, offset)
    },
    /** One number, or three. */
    floats(values: number[]): Value {
      const raw = new Uint8Array(Float32Array.from(values).buffer)
      if (values.length === 1) return inlined(TYPE.float, new Uint32Array(raw.buffer)[0]!)
      const offset = bytes.align()
      bytes.emit(raw)
      return placed(TYPE.vec3f, offset)
    },
    /** The targets of a relationship, or what an attribute takes its value from. */
    paths(list: number[]): Value {
      const offset = bytes.align()
      bytes.emit(Uint8Array.of(EXPLICIT))
      bytes.emitSizes(list.length)
      bytes.emitWords(list)
      return placed(TYPE.pathListOp, offset)
    },
    array(type: number, values: ArrayLike<number>): Value {
      if (values.length === 0) return placed(type, 0, ARRAY)
      const raw = rawArray(type, values)
      const key = `${type} ${values.length} ${hashOf([new Uint32Array(raw.buffer)])}`
      const known = written.get(key)
      if (known) return known
      const offset = bytes.align()
      const length = values.length / (WIDTH[type] ?? 1)
      const isPacked = (type === TYPE.int || type === TYPE.int64) && length >= LEAST_PACKED
      bytes.emitSizes(length)
      if (isPacked) bytes.emitCounted(packIntegers(values, type === TYPE.int ? 4 : 8))
      else bytes.emit(raw)
      const made = placed(type, offset, ARRAY + (isPacked ? PACKED : 0))
      written.set(key, made)
      return made
    },
    samples(times: number[], values: Value[]): Value {
      const doubles = bytes.align()
      bytes.emitSizes(times.length)
      bytes.emitDoubles(times)
      const offset = bytes.align()
      // each part says how far on it is
      bytes.emitSizes(8)
      bytes.emitValues([placed(TYPE.doubleVector, doubles)])
      bytes.emitSizes(8, values.length)
      bytes.emitValues(values)
      return placed(TYPE.timeSamples, offset)
    },
  }
}

/** An array as it stands in the file, in a buffer of its own. */
function rawArray(type: number, values: ArrayLike<number>): Uint8Array {
  if (type === TYPE.int) return new Uint8Array(Int32Array.from(values).buffer)
  if (type === TYPE.quath) return new Uint8Array(Uint16Array.from(values, toHalf).buffer)
  if (type !== TYPE.int64) return new Uint8Array(Float32Array.from(values).buffer)
  const words = new Uint32Array(values.length * 2)
  for (let i = 0; i < values.length; i++) {
    words[i * 2] = values[i]!
    words[i * 2 + 1] = Math.floor(values[i]! / 2 ** 32)
  }
  return new Uint8Array(words.buffer)
}

interface Spec {
  path: number
  fields: Fields
  kind: number
}
interface Path {
  name: number
  isProperty: boolean
  below: number[]
}

function writeTables(
  bytes: CrateBytes,
  { tokens, strings, token }: Names,
  specs: Spec[],
  paths: Path[],
): number {
  const pack = (numbers: number[]): void => bytes.emitCounted(packIntegers(numbers, 4))
  const fields = specs.flatMap((spec) => Object.entries(spec.fields))
  const fieldNames = fields.map(([name]) => token(name))
  const sets: number[] = []
  let field = 0
  const firstOfSet = specs.map((spec) => {
    const first = sets.length
    for (let left = Object.keys(spec.fields).length; left > 0; left--) sets.push(field++)
    sets.push(END)
    return first
  })
  const tables: Record<string, () => void> = {
    TOKENS() {
      const text = new TextEncoder().encode([...tokens.keys()].map((one) => `${one}\0`).join(''))
      bytes.emitSizes(tokens.size, text.length)
      bytes.emitCounted(packBytes(text))
    },
    STRINGS() {
      bytes.emitSizes(strings.length)
      bytes.emitWords(strings)
    },
    FIELDS() {
      bytes.emitSizes(fields.length)
      pack(fieldNames)
      bytes.emitCounted(packBytes(bytesOfValues(fields.map(([, value]) => value))))
    },
    FIELDSETS() {
      bytes.emitSizes(sets.length)
      pack(sets)
    },
    PATHS() {
      bytes.emitSizes(paths.length, paths.length)
      treeOf(paths).forEach(pack)
    },
    SPECS() {
      bytes.emitSizes(specs.length)
      ;[specs.map(({ path }) => path), firstOfSet, specs.map(({ kind }) => kind)].forEach(pack)
    },
  }
  const found = Object.entries(tables).map(([name, write]) => {
    const start = bytes.align()
    write()
    return { name: new TextEncoder().encode(name.padEnd(16, '\0')), start, size: bytes.at - start }
  })
  const toc = bytes.align()
  bytes.emitSizes(found.length)
  for (const { name, start, size } of found) {
    bytes.emit(name)
    bytes.emitSizes(start, size)
  }
  return toc
}

/**
 * Paths in the order in which each is followed by those below it; the numbers of their names, below 0 for properties; and jumps, which say where the
 * next one beside each is: −2 nothing more here, −1 only some below, 0 only one beside, else as many entries on.
 */
function treeOf(paths: Path[]): [order: number[], names: number[], jumps: number[]] {
  const [order, names, jumps]: [number[], number[], number[]] = [[], [], []]
  const visit = (n: number, isLast: boolean): void => {
    const { name, isProperty, below } = paths[n]!
    const here = order.push(n) - 1
    names.push(isProperty ? -name : name)
    jumps.push(0)
    below.forEach((one, k) => visit(one, k === below.length - 1))
    if (below.length > 0) jumps[here] = isLast ? -1 : order.length - here
    else if (isLast) jumps[here] = -2
  }
  visit(0, true)
  return [order, names, jumps]
}
