/**
 * Fracture: a closed mesh cut into the Voronoi cells of seeds. Cells are convex, so each piece is the intersection of the mesh with one
 * of them; what a cell cuts into several parts is several pieces.
 */
import type { Manifold, ManifoldToplevel } from 'manifold-3d'
import type { Machine } from '@tangle/kernels'
import { meshFacts, type Mesh, type MeshFacts } from '../geometry/mesh.ts'
import { massProperties, pieceCount } from '../geometry/pieces.ts'
import { add, dot, scale, subtract, unit, type Vector } from '../math/vector.ts'
import type { FractureSource } from '../document/types.ts'
import { voronoiCells, type Cell } from './cells.ts'
import { hullsOf } from './hulls.ts'
import { roughCell, roughness } from './rough.ts'
import { closeSeams } from './seams.ts'
import { fractureSeeds, type DensityAt } from './seeds.ts'
import { sharedFaces } from './sharedFaces.ts'
import { solidOf, type Solid } from './solid.ts'

export interface FractureTools {
  manifold: ManifoldToplevel
  machine: Machine
  /** Told what share is done; may throw to leave off. */
  progress?(share: number): void
  density: DensityAt
}

/** One piece as it comes out: which cell it lies in, and its triangles with what each comes from. */
export interface Part {
  cell: number
  /** The cells around that one. */
  neighbours: number[]
  positions: Float32Array
  triangles: Uint32Array
  /** Triangle of the mesh that each lies in; BROKEN on the faces along which it broke, LID on what closes its holes. */
  sources: Uint32Array
}
export const BROKEN = 0xffffffff
const LID = 0xfffffffe

/** Smaller parts than this share of the mean piece are left with nobody: they are rounding. */
const LEAST = 1e-7

/**
 * A mesh in world size, broken. Its triangles lie piece by piece; volumes sum to that of the whole.
 * @throws Error that says what keeps it from being broken
 */
export function fracture(tools: FractureTools, mesh: Mesh, source: FractureSource): Mesh {
  const { manifold, machine, progress, density } = tools
  const whole = solidOf(manifold, mesh)
  const { solid } = whole
  const seeds = fractureSeeds(machine, mesh, source, density)
  if (seeds.length === 0) throw new Error('no seed lies in the mesh: choose another mask, or none')
  const stretch = stretching(source)
  const stretched = seeds.map(stretch.into)
  const parts: Part[] = []
  try {
    const [low, high] = boxAround(mesh, stretch.into, source.rough)
    const volume = solid.volume()
    let done = 0
    for (const cell of voronoiCells(stretched, low, high)) {
      if (cell) {
        const inWorld = { ...cell, vertices: cell.vertices.map(stretch.back) }
        for (const part of partsIn(tools, whole, inWorld, source)) {
          if (part.volume > (LEAST * volume) / seeds.length)
            parts.push({ ...part, cell: done, neighbours: neighboursOf(cell) })
        }
      }
      done++
      progress?.(done / seeds.length)
    }
  } finally {
    solid.delete()
  }
  if (parts.length === 0) throw new Error('nothing of it is left: it has no volume')
  closeSeams(parts)
  return assemble(mesh, parts, seeds, stretch.into, source)
}

const neighboursOf = ({ faces }: Cell): number[] =>
  faces.map(({ neighbour }) => neighbour).filter((k) => k >= 0)

/** The part of a solid in a cell, taken apart. */
function partsIn(
  { manifold }: FractureTools,
  { solid, id, triangles }: Solid,
  cell: Cell,
  source: FractureSource,
): Found[] {
  const cutter = cutterOf(manifold, cell, source)
  const both = solid.intersect(cutter)
  const all = both.isEmpty() ? [] : both.decompose()
  const found = all.map((one) => ({ ...partOf(one, id, triangles), volume: one.volume() }))
  for (const one of [cutter, both, ...all]) one.delete()
  return withCavities(found)
}

type Found = Omit<Part, 'cell' | 'neighbours'> & { volume: number }

/** The wall of a cavity comes as a part of its own that is inside out: it belongs to the smallest part around it. */
function withCavities(found: Found[]): Found[] {
  const solids = found.filter(({ volume }) => volume > 0).sort((a, b) => a.volume - b.volume)
  for (const wall of found.filter(({ volume }) => volume < 0)) {
    const around = solids.find((one) => contains(one.positions, wall.positions))
    if (!around) continue
    const vertices = around.positions.length / 3
    around.positions = joined(around.positions, wall.positions)
    around.triangles = Uint32Array.from([...around.triangles, ...wall.triangles.map((v) => v + vertices)])
    around.sources = Uint32Array.from([...around.sources, ...wall.sources])
    around.volume += wall.volume
  }
  return solids
}
const joined = (a: Float32Array, b: Float32Array): Float32Array => {
  const out = new Float32Array(a.length + b.length)
  out.set(a)
  out.set(b, a.length)
  return out
}
/** Whether the box around some points holds that around others. */
function contains(outer: Float32Array, inner: Float32Array): boolean {
  const [a, b] = [outer, inner].map((positions) => meshFacts({ positions, triangles: new Uint32Array(0) })) as [MeshFacts, MeshFacts] // prettier-ignore
  return [0, 1, 2].every((k) => a.low[k]! <= b.low[k]! && a.high[k]! >= b.high[k]!)
}

/** A cell as a solid: its faces as fans, rough where that is wanted. */
function cutterOf(manifold: ManifoldToplevel, cell: Cell, source: FractureSource): Manifold {
  const { vertices, triangles } = roughCell(cell, source.rough > 0 ? roughness(source) : null)
  const mesh = new manifold.Mesh({
    numProp: 3,
    vertProperties: Float32Array.from(vertices.flat()),
    triVerts: Uint32Array.from(triangles),
  })
  try {
    return manifold.Manifold.ofMesh(mesh)
  } catch {
    // slivers of a cell may fold over in f32: what is convex has a hull
    return manifold.Manifold.hull(vertices)
  }
}

function partOf(one: Manifold, original: number, count: number): Omit<Part, 'cell' | 'neighbours'> {
  const { vertProperties, numProp, triVerts, runIndex, runOriginalID, faceID } = one.getMesh()
  const positions = new Float32Array((vertProperties.length / numProp) * 3)
  for (let v = 0; v < positions.length / 3; v++)
    for (let axis = 0; axis < 3; axis++) positions[v * 3 + axis] = vertProperties[v * numProp + axis]!
  const sources = new Uint32Array(triVerts.length / 3).fill(BROKEN)
  runOriginalID.forEach((id, run) => {
    if (id !== original) return
    for (let t = runIndex[run]! / 3; t < runIndex[run + 1]! / 3; t++)
      sources[t] = faceID[t]! < count ? faceID[t]! : LID
  })
  return { positions, triangles: Uint32Array.from(triVerts), sources }
}

/** All parts as one mesh, piece by piece. */
function assemble(
  mesh: Mesh,
  parts: Part[],
  seeds: Vector[],
  into: (p: Vector) => Vector,
  source: FractureSource,
): Mesh {
  const starts = new Uint32Array(parts.length + 1)
  parts.forEach(({ triangles }, k) => (starts[k + 1] = starts[k]! + triangles.length / 3))
  const total = starts.at(-1)!
  const positions = new Float32Array(parts.reduce((sum, one) => sum + one.positions.length, 0))
  const triangles = new Uint32Array(total * 3)
  const sources = new Uint32Array(total)
  let vertex = 0
  parts.forEach((part, k) => {
    positions.set(part.positions, vertex * 3)
    triangles.set(
      part.triangles.map((v) => v + vertex),
      starts[k]! * 3,
    )
    sources.set(
      part.sources.map((from) => (from === LID ? BROKEN : from)),
      starts[k]!,
    )
    vertex += part.positions.length / 3
  })
  const inner = Uint8Array.from(sources, (from) => (from === BROKEN ? 1 : 0))
  return {
    positions,
    triangles,
    splitFrom: { mesh, triangles: sources },
    pieces: {
      starts,
      inner,
      seeds: Float32Array.from(seeds.flat()),
      hulls: hullsOf(parts),
      bonds: sharedFaces(parts, seeds.map(into), into, source.rough),
    },
  }
}

/** Cells are longer along a direction: space is compressed along it while they are found. */
function stretching({ stretch, along }: FractureSource) {
  const axis = unit(along as Vector)
  const scaled =
    (factor: number) =>
    (p: Vector): Vector =>
      stretch === 1 ? p : add(p, scale(axis, (factor - 1) * dot(axis, p)))
  return { into: scaled(1 / stretch), back: scaled(stretch) }
}

/** A box about the mesh in the space of the cells, with room to spare. */
function boxAround(mesh: Mesh, into: (p: Vector) => Vector, rough: number): [Vector, Vector] {
  const { low, high } = meshFacts(mesh)
  const corners = Array.from({ length: 8 }, (_, k) =>
    into([k & 1 ? high[0] : low[0], k & 2 ? high[1] : low[1], k & 4 ? high[2] : low[2]]),
  )
  const [from, to] = [Math.min, Math.max].map((of) =>
    [0, 1, 2].map((axis) => of(...corners.map((c) => c[axis]!))),
  ) as [Vector, Vector]
  const size = Math.sqrt(dot(subtract(to, from), subtract(to, from)))
  const room = 0.05 * size + 4 * rough
  return [from.map((x) => x - room) as Vector, to.map((x) => x + room) as Vector]
}

/** What an artist needs to know of pieces. Volumes in m³, widths in metres: of a ball of that volume. */
export interface PieceFacts {
  pieces: number
  bonds: number
  volume: number
  smallest: number
  largest: number
}
export function pieceFacts(mesh: Mesh, size: Vector): PieceFacts {
  const volumes = massProperties(mesh, size).map(({ volume }) => volume)
  const width = (volume: number): number => Math.cbrt((6 * Math.max(0, volume)) / Math.PI)
  return {
    pieces: pieceCount(mesh),
    bonds: mesh.pieces!.bonds.areas.length,
    volume: volumes.reduce((a, b) => a + b, 0),
    smallest: width(Math.min(...volumes)),
    largest: width(Math.max(...volumes)),
  }
}
