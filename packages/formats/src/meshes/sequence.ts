/**
 * A mesh, or a set of points, in a file for each frame, all in a ZIP: NAME.FRAME.obj and so on. Meshes have the same vertices and triangles in all of them.
 * Points have the same number, or ids ("id" in PLY and CSV) by which each is found again: one that is not in a file is where it was seen last, or will
 * be seen first. Between files that are not there things go evenly.
 */
import type { Mesh } from '@tangle/core'
import { zipSync, type Unzipped } from 'fflate'
import { FormatFault } from '../fault.ts'
import { unzip } from './zip.ts'

/** Bytes of all files together, and of the places that are made of them, at most. */
const MOST_BYTES = 2 ** 31

type Read = (name: string, bytes: Uint8Array) => Mesh | Promise<Mesh>

/** @param read reads one file, without welding it. @throws FormatFault that names the file. */
export async function readSequence(bytes: Uint8Array, read: Read): Promise<Mesh> {
  const files = framesIn(unpacked(bytes))
  const [first] = files as [SequenceFile, ...SequenceFile[]]
  const last = files.at(-1)!.frame
  const whole = await readFile(first, read)
  const byIds = whole.triangles.length === 0 && idsOf(whole) !== null
  const known: [frame: number, places: Float32Array][] = []
  let mesh = whole
  if (byIds) {
    const all: [number, Mesh][] = []
    for (const file of files) all.push([file.frame, await readFile(file, read)])
    mesh = byId(all, known)
  } else {
    for (const file of files) {
      const one = file === first ? whole : await readFile(file, read)
      sameAs(whole, first.name, one, file.name)
      known.push([file.frame, one.positions])
    }
  }
  const count = last - first.frame + 1
  if (count * mesh.positions.byteLength > MOST_BYTES)
    throw new FormatFault(
      first.name,
      `and those that follow have ${count} frames of ${mesh.positions.length / 3} vertices, more than fits into memory`,
    )
  if (files.length === 1) return mesh
  return {
    ...mesh,
    motion: { rate: null, count, by: { places: everyFrame(known) }, middles: new Uint32Array(0) },
  }
}

function unpacked(bytes: Uint8Array): Unzipped {
  let sum = 0
  return unzip(bytes, (name, size) => {
    if (name.endsWith('/') || /(^|\/)[._]/.test(name)) return false
    sum += size
    if (sum > MOST_BYTES)
      throw new FormatFault(name, 'and those before it are more than 2 GiB: make the sequence shorter')
    return true
  })
}

/** Fewer files whose names differ by a number alone are files by themselves. */
const LEAST_FILES = 3

/** Names that make a sequence, by what they have in common and the ending; others are by themselves. */
export function sequencesAmong(names: string[]): string[][] {
  const groups = new Map<string, string[]>()
  for (const name of names) {
    const [, stem, ending] = /^(.*?)-?\d+(\.\w+)$/.exec(name) ?? [null, name, '']
    const key = `${stem}*${ending}`
    groups.set(key, [...(groups.get(key) ?? []), name])
  }
  return [...groups.values()].flatMap((some) =>
    some.length >= LEAST_FILES ? [some] : some.map((one) => [one]),
  )
}

/** A sequence as it is stored: the same files give the same bytes. */
export function packSequence(files: { name: string; bytes: Uint8Array }[]): Uint8Array {
  const sorted = files.toSorted((a, b) => (a.name < b.name ? -1 : 1))
  return zipSync(Object.fromEntries(sorted.map(({ name, bytes }) => [name, bytes])), {
    level: 6,
    mtime: '1980-01-01',
  })
}

interface SequenceFile {
  name: string
  frame: number
  bytes: Uint8Array
}

/** Files by their numbers, which rise. */
function framesIn(files: Unzipped): SequenceFile[] {
  const found = Object.entries(files).map(([name, bytes]): SequenceFile => {
    const [, stem, number] = /^(.*?)(-?\d+)\.\w+$/.exec(name.split('/').at(-1)!) ?? []
    if (number === undefined)
      throw new FormatFault(name, 'has no number of a frame before its ending, as NAME.0001.obj')
    // a hyphen between a name and a number is no sign
    return { name, frame: /\w$/.test(stem!) ? Math.abs(Number(number)) : Number(number), bytes }
  })
  if (found.length === 0) throw new FormatFault('ZIP', 'has no files')
  const endings = new Set(found.map(({ name }) => name.split('.').at(-1)!.toLowerCase()))
  if (endings.size > 1)
    throw new FormatFault(
      'ZIP',
      `has files of several kinds (${[...endings].join(', ')}): a sequence has one`,
    )
  if (endings.has('zip')) throw new FormatFault('ZIP', 'has a ZIP in it')
  found.sort((a, b) => a.frame - b.frame)
  const twice = found.findIndex(({ frame }, k) => found[k + 1]?.frame === frame)
  if (twice >= 0)
    throw new FormatFault(found[twice + 1]!.name, `and ${found[twice]!.name} are of the same frame`)
  return found
}

async function readFile({ name, bytes }: SequenceFile, read: Read): Promise<Mesh> {
  try {
    return await read(name, bytes)
  } catch (error) {
    throw new FormatFault(name, (error as Error).message)
  }
}

function sameAs(first: Mesh, firstName: string, mesh: Mesh, name: string): void {
  const [has, had] = [mesh, first].map(({ positions }) => positions.length / 3)
  if (has !== had) {
    const how = first.triangles.length > 0 ? 'all must have the same' : 'all must have the same, or ids'
    throw new FormatFault(name, `has ${has} vertices, and ${firstName} has ${had}: ${how}`)
  }
  const sameTriangles =
    mesh.triangles.length === first.triangles.length &&
    mesh.triangles.every((v, k) => v === first.triangles[k])
  if (!sameTriangles)
    throw new FormatFault(name, `has other triangles than ${firstName}: all must have the same`)
}

const idsOf = ({ data }: Mesh): Float32Array | null => data?.id?.values ?? null

/** Points that are told by ids, as one set; `known` gets where all of them are in each file. */
function byId(all: [frame: number, points: Mesh][], known: [number, Float32Array][]): Mesh {
  const numbers = new Map<number, number>()
  for (const [, points] of all)
    for (const id of idsOf(points) ?? []) if (!numbers.has(id)) numbers.set(id, numbers.size)
  const count = numbers.size
  const seen = all.map(([frame, points]) => {
    const ids = idsOf(points)
    if (!ids) throw new FormatFault(`frame ${frame}`, 'has no ids, and others have')
    if (new Set(ids).size !== ids.length)
      throw new FormatFault(`frame ${frame}`, 'has an id twice; those above 16,777,216 can’t be told apart')
    const places = new Float32Array(count * 3).fill(NaN)
    ids.forEach((id, k) => places.set(points.positions.subarray(k * 3, k * 3 + 3), numbers.get(id)! * 3))
    return [frame, places] as const
  })
  const fill = (order: typeof seen): void => {
    order.forEach(([, places], n) => {
      const before = order[n - 1]?.[1]
      if (before) places.forEach((x, k) => (places[k] = Number.isNaN(x) ? before[k]! : x))
    })
  }
  fill(seen)
  fill(seen.toReversed())
  for (const [frame, places] of seen) known.push([frame, places])
  const id = { width: 1, values: Float32Array.from(numbers.keys()) }
  return { positions: seen[0]![1], triangles: new Uint32Array(0), data: { id } }
}

/** Of every frame from the first to the last, those between two evenly between them. */
function everyFrame(known: [frame: number, places: Float32Array][]): Float32Array[] {
  return known.flatMap(([frame, places], n) => {
    const [next, to] = known[n + 1] ?? [frame + 1, places]
    return Array.from({ length: next - frame }, (_, k) =>
      k === 0 ? places : places.map((x, i) => x + ((to[i]! - x) * k) / (next - frame)),
    )
  })
}
