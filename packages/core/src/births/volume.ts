import type { Mesh } from '../geometry/mesh.ts'
import { closestPoints, windingNumbers } from '../geometry/tree.ts'
import { STREAM } from '../math/random.ts'
import { unit, type Vector } from '../math/vector.ts'
import { choice, number } from '../document/parameters.ts'
import { RIGID } from '../scene/points.ts'
import { drawRandoms } from '../math/draw.ts'
import { birth, BirthError, COMMON, type BirthMesh, type Points, type PointSource } from './birth.ts'
import { pickPoints } from './vertices.ts'

/** Most points of a grid; a finer one is refused rather than left to run out of memory. */
const MOST_GRID = 20_000_000
/** Cells along the longest side when looking for where the inside is. */
const COARSE = 40
const MOST_DRAWS = 64

/**
 * Born inside the mesh. Inside is where the generalised winding number is above ½, which holds for
 * open scans too. Source: Barill et al., "Fast winding numbers for soups and clouds" (2018).
 */
export const volume = birth({
  kind: 'volume',
  label: 'In the volume',
  glyph: '▦',
  help: 'Inside the mesh, at random, on a grid or packed; holes in the mesh do not matter',
  source: 'Barill et al., "Fast winding numbers for soups and clouds" (2018)',
  parameters: {
    ...COMMON,
    fill: choice({
      label: 'Fill',
      help: 'How the points lie: on a grid for what is linked, packed for what is to run out in a heap',
      default: 'random',
      options: { random: 'at random', grid: 'on a grid', packed: 'packed like balls' },
    }),
    spacing: number({
      label: 'Spacing',
      unit: 'm',
      help: 'Distance between neighbours',
      default: 0.1,
      range: [0.0001, 1e4],
      usual: [0.01, 1],
      step: 0.005,
      when: { fill: 'grid packed' },
    }),
    margin: number({
      label: 'Margin',
      unit: 'm',
      help: 'Least distance from the surface, so that whole particles fit',
      default: 0,
      range: [0, 1e4],
      usual: [0, 0.5],
      step: 0.001,
    }),
  },
  gridSpacing: ({ fill, spacing }) => (fill === 'grid' ? spacing : undefined),
  prepare: (values, source) =>
    values.fill === 'random'
      ? atRandom(source, values.margin)
      : onGrid(source, LATTICES[values.fill as keyof typeof LATTICES], values.spacing, values.margin),
})

/** How a lattice lies: its steps along the axes in distances of neighbours, and how far each row and layer is moved along x and z, in steps. */
interface Lattice {
  steps: Vector
  shift(row: number, layer: number): [x: number, z: number]
}
const LATTICES: Record<'grid' | 'packed', Lattice> = {
  grid: { steps: [1, 1, 1], shift: () => [0, 0] },
  // face-centred cubic, as balls are packed most closely (Hales, 2005): each lies in the hollow between three below it
  packed: {
    steps: [1, Math.sqrt(2 / 3), Math.sqrt(3) / 2],
    shift: (row, layer) => [((row + (layer % 3)) % 2) / 2, (layer % 3) / 3],
  },
}

/** Which of the points lie inside and at least `margin` (world metres) from the surface. */
function insideTest({ machine, tree, scale }: BirthMesh, margin: number, points: Float32Array): Uint8Array {
  const winding = windingNumbers(machine, tree(), points)
  const inside = Uint8Array.from(winding, (w) => (w > 0.5 ? 1 : 0))
  if (margin === 0) return inside
  const closest = closestPoints(machine, tree(), points)
  return inside.map((is, i) => {
    let squared = 0
    for (let axis = 0; axis < 3; axis++) {
      squared += ((closest.points[i * 3 + axis]! - points[i * 3 + axis]!) * scale[axis]!) ** 2
    }
    return is && squared >= margin * margin ? 1 : 0
  })
}

function onGrid(source: BirthMesh, { steps, shift }: Lattice, spacing: number, margin: number): PointSource {
  const { facts, scale, machine, seed } = source
  const step = scale.map((s, axis) => (spacing * steps[axis]!) / Math.max(Math.abs(s), 1e-9)) as Vector
  const size = step.map((s, axis) =>
    Math.max(1, Math.floor((facts.high[axis]! - facts.low[axis]!) / s)),
  ) as Vector
  const all = size[0] * size[1] * size[2]
  if (all > MOST_GRID) {
    throw new BirthError(
      `The grid would have ${Math.round(all / 1e6)} million points: make the spacing larger than ${spacing} m`,
    )
  }
  // the grid is centred in the box and goes up layer by layer
  const start = step.map((s, axis) => (facts.low[axis]! + facts.high[axis]! - s * (size[axis]! - 1)) / 2)
  const points = new Float32Array(all * 3)
  for (let i = 0; i < all; i++) {
    const [column, row] = [i % size[0], Math.floor(i / size[0]) % size[2]]
    const layer = Math.floor(i / (size[0] * size[2]))
    const [dx, dz] = shift(row, layer)
    points[i * 3] = start[0]! + step[0] * (column + dx)
    points[i * 3 + 1] = start[1]! + step[1] * layer
    points[i * 3 + 2] = start[2]! + step[2] * (row + dz)
  }
  const inside = insideTest(source, margin, points)
  const kept = Array.from(inside.keys()).filter((i) => inside[i])
  const positions = pickPoints(points, kept.length, (i) => kept[i]!)
  return {
    offered: kept.length,
    points(ids, turns) {
      const draws = turns ? null : drawRandoms(machine, ids, seed, STREAM.volume)
      const pick = (i: number): number => turns?.[i] ?? Math.floor(draws![i * 4]! * kept.length)
      return withNormals(source, pickPoints(positions, ids.length, pick))
    },
  }
}

/**
 * Rejection within the coarse cells that can hold inside points: each particle draws a cell and a
 * place in it until the place is inside, which keeps the points even. After 64 draws (needed only
 * in shells thinner than a hundredth of the mesh) it takes the last draw's closest point.
 */
function atRandom(source: BirthMesh, margin: number): PointSource {
  const { machine, tree, seed } = source
  const { cells, size } = coarseCells(source)
  return {
    offered: cells.length > 0 ? null : 0,
    points(ids) {
      const positions = new Float32Array(ids.length * 3)
      let waiting = Uint32Array.from(ids.keys())
      for (let draw = 0; draw < MOST_DRAWS && waiting.length > 0; draw++) {
        const random = drawRandoms(
          machine,
          waiting.map((i) => ids[i]!),
          seed,
          STREAM.volume,
          draw,
        )
        const candidates = new Float32Array(waiting.length * 3)
        for (let w = 0; w < waiting.length; w++) {
          const cell = Math.floor((random[w * 4]! * cells.length) / 3) * 3
          for (let axis = 0; axis < 3; axis++) {
            const x = cells[cell + axis]! + (random[w * 4 + 1 + axis]! - 0.5) * size[axis]!
            candidates[w * 3 + axis] = x
            positions[waiting[w]! * 3 + axis] = x
          }
        }
        const inside = insideTest(source, margin, candidates)
        waiting = waiting.filter((_, w) => !inside[w])
      }
      if (waiting.length > 0) {
        const lost = pickPoints(positions, waiting.length, (w) => waiting[w]!)
        const closest = closestPoints(machine, tree(), lost).points
        waiting.forEach((i, w) => positions.set(closest.subarray(w * 3, w * 3 + 3), i * 3))
      }
      return withNormals(source, positions)
    },
  }
}

interface Cells {
  /** Centres, x, y, z. */
  cells: Float32Array
  size: Vector
}

/** Found once per mesh: they do not depend on its place. */
const knownCells = new WeakMap<Mesh, Cells>()

function coarseCells(source: BirthMesh): Cells {
  const found = knownCells.get(source.mesh) ?? findCells(source)
  knownCells.set(source.mesh, found)
  return found
}

/** The coarse cells that hold or touch the inside. */
function findCells(source: BirthMesh): Cells {
  const { facts, machine, tree } = source
  const extent = [0, 1, 2].map((axis) => facts.high[axis]! - facts.low[axis]!) as Vector
  const edge = Math.max(...extent) / COARSE
  const counts = extent.map((e) => Math.max(1, Math.ceil(e / edge))) as Vector
  const size = extent.map((e, axis) => e / counts[axis]!) as Vector
  const all = new Float32Array(counts[0] * counts[1] * counts[2] * 3)
  for (let i = 0; i < all.length / 3; i++) {
    const at = [i % counts[0], Math.floor(i / counts[0]) % counts[1], Math.floor(i / (counts[0] * counts[1]))]
    for (let axis = 0; axis < 3; axis++)
      all[i * 3 + axis] = facts.low[axis]! + (at[axis]! + 0.5) * size[axis]!
  }
  const winding = windingNumbers(machine, tree(), all)
  const { distances } = closestPoints(machine, tree(), all)
  const reach = Math.sqrt(size[0] ** 2 + size[1] ** 2 + size[2] ** 2) / 2
  const kept = Array.from(winding.keys()).filter((i) => winding[i]! > 0.5 || distances[i]! <= reach)
  return { cells: pickPoints(all, kept.length, (i) => kept[i]!), size }
}

/** Inside points set out towards the nearest surface. */
function withNormals({ machine, tree, facts }: BirthMesh, positions: Float32Array): Points {
  const middle = [0, 1, 2].map((axis) => (facts.low[axis]! + facts.high[axis]!) / 2) as Vector
  return {
    triangles: new Uint32Array(positions.length / 3).fill(RIGID),
    weights: new Float32Array((positions.length / 3) * 2),
    positions,
    inside: true,
    normals() {
      const closest = closestPoints(machine, tree(), positions).points
      const normals = new Float32Array(positions.length)
      for (let i = 0; i < positions.length; i += 3) {
        const away = [0, 1, 2].map((axis) => positions[i + axis]! - middle[axis]!) as Vector
        const out = [0, 1, 2].map((axis) => closest[i + axis]! - positions[i + axis]!) as Vector
        normals.set(unit(out, unit(away)), i)
      }
      return normals
    },
  }
}
