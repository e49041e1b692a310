/**
 * OpenVDB: particles as fog volumes, one file per population and frame, ID.FRAME.vdb, with the grids `density`, `velocity` where it is kept, and the artist's
 * own attributes by their ids; how they are made says splat.ts. Trees of the usual shape (5, 4, 3), f32, zipped, without values of what is empty.
 * Source of the layout: OpenVDB, openvdb/io/File.cc, io/Compression.h and tree/*.h, file version 224.
 */
import { ownName, type OwnAttribute, type PopulationFrame, type Shot } from '@tangle/core'
import { zlibSync } from 'fflate'
import { hashOf } from '../contents.ts'
import { byFrame, frameNumber, inOnePiece, type ExportKind } from './kind.ts'
import { lengthsIn } from './space.ts'
import { BLOCK, splat, type Carried, type Fog, type FogBlock } from './splat.ts'
import {
  createVdbBytes,
  LOWER,
  NO_INACTIVE,
  UPPER,
  VDB_MAGIC,
  VDB_VERSION,
  ZIP_AND_MASK,
  type VdbBytes,
} from './vdbBytes.ts'
import { readVdb } from './vdbReader.ts'

/** Radii in a voxel where nobody says how large it is. */
const RADII = 4

export const vdb: ExportKind = {
  kind: 'vdb',
  label: 'OpenVDB sequence',
  help: 'Particles as fog volumes, one file per frame: density, velocity and your own attributes in voxels',
  sequence: true,
  meshes: false,
  volumes: true,
  async *files(shot, frames) {
    for (let frame = frames.first; frame <= frames.last; frame++) {
      for (const population of (await frames.read(frame)).populations) {
        const name = `${population.id}.${frameNumber(frame, frames.digits)}.vdb`
        const { particle, attributes } = shot.populations.find(({ id }) => id === population.id)!
        const mean = typeof particle.radius === 'number' ? particle.radius : particle.radius.mean
        const [usual] = lengthsIn(frames.space, Float32Array.of(mean))
        const voxel = frames.voxel ?? Math.fround(RADII * usual!)
        yield { name, pieces: inOnePiece(writeFog(shot, population, attributes, usual!, voxel)) }
      }
    }
  },
  async *readBack(read, names) {
    for (const [frame, files] of byFrame(names, /\.(-?\d+)\.vdb$/)) {
      for (const file of files) readVdb(file, await read(file))
      yield { frame, populations: [], meshes: [] }
    }
  },
}

function writeFog(
  shot: Shot,
  population: PopulationFrame,
  own: OwnAttribute[],
  usual: number,
  voxel: number,
): Uint8Array {
  const { columns, count } = population
  const radius = (columns.radius as Float32Array | undefined) ?? new Float32Array(count).fill(usual)
  const carried: Carried[] = [
    ...(columns.velocity ? [{ name: 'velocity', width: 3 as const, values: columns.velocity }] : []),
    ...own.flatMap(({ id }) => {
      const values = columns[ownName(id)]
      if (!values) return []
      return [{ name: id, width: (values.length === count ? 1 : 3) as 1 | 3, values }]
    }),
  ]
  const fog = splat(population, radius, carried, voxel)
  const grids = [{ name: 'density', width: 1 as const }, ...toldApart(carried)]
  const bytes = createVdbBytes()
  writeHead(bytes, shot, population.id, grids.length)
  grids.forEach(({ name, width }, n) => writeGrid(bytes, fog, name, width, n))
  return bytes.whole()
}

/** The artist's own "density" or "velocity" comes second. */
function toldApart(carried: Carried[]): { name: string; width: 1 | 3 }[] {
  const taken = new Set(['density'])
  return carried.map(({ name, width }) => {
    let free = name
    for (let n = 2; taken.has(free); n++) free = `${name}_${n}`
    taken.add(free)
    return { name: free, width }
  })
}

function writeHead(bytes: VdbBytes, shot: Shot, id: string, grids: number): void {
  bytes.words(VDB_MAGIC, 0, VDB_VERSION)
  // the version of the library that would write this
  bytes.words(10, 0)
  bytes.bytes(Uint8Array.of(1))
  bytes.bytes(new TextEncoder().encode(uuidOf(`${shot.name} ${id}`)))
  bytes.metadata({ creator: `Tangle, ${shot.name}, ${id}` })
  bytes.words(grids)
}

/** The same for the same name, so that the same take gives the same bytes. */
function uuidOf(name: string): string {
  const words = Uint32Array.from(new TextEncoder().encode(name))
  const digits = `${hashOf([words])}${hashOf([words.toReversed()])}`
  return [0, 8, 12, 16, 20].map((from, n, all) => digits.slice(from, all[n + 1] ?? 32)).join('-')
}

/** `n` is the number of the grid among the values of the fog's blocks. */
function writeGrid(bytes: VdbBytes, fog: Fog, name: string, width: 1 | 3, n: number): void {
  bytes.string(name)
  bytes.string(width === 1 ? 'Tree_float_5_4_3' : 'Tree_vec3s_5_4_3')
  bytes.string('')
  const offsets = bytes.later(3 * 8)
  offsets.put(0, bytes.at)
  bytes.words(ZIP_AND_MASK)
  const tree = treeOf(fog)
  bytes.metadata({ class: 'fog volume', name, ...(width === 3 ? { vector_type: 'contravariant relative' } : {}), ...extentOf(fog) }) // prettier-ignore
  writeTransform(bytes, fog.voxel)
  writeTopology(bytes, tree, width)
  offsets.put(1, bytes.at)
  for (const { children } of tree)
    for (const { children: leaves } of children) for (const leaf of leaves) writeLeaf(bytes, leaf, width, n)
  offsets.put(2, bytes.at)
}

/** First and last voxel, and how many have something. */
function extentOf({ blocks }: Fog): {
  file_bbox_min: number[]
  file_bbox_max: number[]
  file_voxel_count: bigint
} {
  let voxels = 0
  const [low, high] = [
    [Infinity, Infinity, Infinity],
    [-Infinity, -Infinity, -Infinity],
  ]
  for (const { at, values } of blocks.values()) {
    for (const density of values[0]!) if (density > 0) voxels++
    at.forEach((x, axis) => {
      low[axis] = Math.min(low[axis]!, x * BLOCK)
      high[axis] = Math.max(high[axis]!, x * BLOCK + BLOCK - 1)
    })
  }
  const none = blocks.size === 0
  return { file_bbox_min: none ? [0, 0, 0] : low, file_bbox_max: none ? [-1, -1, -1] : high, file_voxel_count: BigInt(voxels) } // prettier-ignore
}

/** A map by one scale: the scales, the voxel, 1/scale, 1/scale² and 1/(2·scale), x y z each. */
function writeTransform(bytes: VdbBytes, voxel: number): void {
  bytes.string('UniformScaleMap')
  for (const value of [voxel, voxel, 1 / voxel, 1 / voxel ** 2, 0.5 / voxel])
    bytes.doubles(value, value, value)
}

/** A node with its children by their places in it, which rise. */
interface Node<Child> {
  at: [number, number, number]
  children: Child[]
  places: number[]
}
type Lower = Node<FogBlock>
type Upper = Node<Lower>

function treeOf({ blocks }: Fog): Upper[] {
  const lower = gathered([...blocks.values()], BLOCK, LOWER)
  return gathered(lower, LOWER, UPPER)
}

/** Nodes of `size` voxels over those of `below` voxels; `at` is in their own sizes. */
function gathered<Child extends { at: [number, number, number] }>(
  all: Child[],
  below: number,
  size: number,
): Node<Child>[] {
  const across = size / below
  const nodes = new Map<string, { at: [number, number, number]; found: [place: number, child: Child][] }>()
  for (const child of all) {
    const at = child.at.map((x) => Math.floor(x / across)) as [number, number, number]
    const [x, y, z] = child.at.map((c, axis) => c - at[axis]! * across) as [number, number, number]
    const node = nodes.get(at.join()) ?? { at, found: [] }
    nodes.set(at.join(), node)
    node.found.push([(x * across + y) * across + z, child])
  }
  return [...nodes.values()]
    .sort((a, b) => a.at[0] - b.at[0] || a.at[1] - b.at[1] || a.at[2] - b.at[2])
    .map(({ at, found }) => {
      found.sort(([a], [b]) => a - b)
      return { at, places: found.map(([place]) => place), children: found.map(([, child]) => child) }
    })
}

function writeTopology(bytes: VdbBytes, tree: Upper[], width: 1 | 3): void {
  bytes.words(1) // buffers of a leaf
  bytes.floats(...new Array<number>(width).fill(0)) // of what is empty
  bytes.words(0, tree.length)
  for (const { at, places, children } of tree) {
    bytes.words(...at.map((x) => x * UPPER))
    writeInner(bytes, places, UPPER / LOWER)
    for (const lower of children) {
      writeInner(bytes, lower.places, LOWER / BLOCK)
      for (const leaf of lower.children) bytes.bytes(maskOf(leaf))
    }
  }
}

/** Which places of a node have children; there are no values besides. */
function writeInner(bytes: VdbBytes, places: number[], across: number): void {
  const mask = new Uint8Array(across ** 3 / 8)
  for (const place of places) mask[place >> 3]! |= 1 << (place & 7)
  bytes.bytes(mask)
  bytes.bytes(new Uint8Array(mask.length))
  bytes.bytes(Uint8Array.of(NO_INACTIVE))
  bytes.longs(0n)
}

/** Voxels in which something is, a bit each. */
function maskOf({ values: [density] }: FogBlock): Uint8Array {
  const mask = new Uint8Array(BLOCK ** 3 / 8)
  density!.forEach((value, i) => {
    if (value > 0) mask[i >> 3]! |= 1 << (i & 7)
  })
  return mask
}

function writeLeaf(bytes: VdbBytes, block: FogBlock, width: 1 | 3, n: number): void {
  const { values } = block
  const active: number[] = []
  values[0]!.forEach((density, i) => {
    if (density > 0) for (let k = 0; k < width; k++) active.push(values[n]![i * width + k]!)
  })
  const raw = new Uint8Array(Float32Array.from(active).buffer)
  const zipped = zlibSync(raw, { level: 6 })
  bytes.bytes(maskOf(block))
  bytes.bytes(Uint8Array.of(NO_INACTIVE))
  // what does not get smaller stands as it is, under its length below 0
  const smaller = zipped.length < raw.length
  bytes.longs(BigInt(smaller ? zipped.length : -raw.length))
  bytes.bytes(smaller ? zipped : raw)
}
