import { closestPoints, windingNumbers } from '../geometry/tree.ts'
import { inverse, transform, type Affine, type Vector } from '../math/vector.ts'
import { choice, number } from '../document/parameters.ts'
import { RIGID } from '../scene/points.ts'
import { birth, BirthError, COMMON, type BirthMesh } from './birth.ts'
import { pickPoints } from './vertices.ts'

type Filled = BirthMesh & NonNullable<BirthMesh['liquid']>

/** Most cells of the grid; a finer one is refused rather than left to run out of memory. */
const MOST_CELLS = 20_000_000

/** Fills a mesh with a liquid up to a level: a grid whose cells are as wide as the particles, upright in the world. */
export const fill = birth({
  kind: 'fill',
  label: 'Fill',
  glyph: '◒',
  help: 'A liquid up to a level in a mesh: in what it encloses, or in the hollow that it has, as a cup',
  source:
    'A grid as wide as the particles; inside by winding number, the hollow by flooding the grid from outside',
  parameters: {
    ...COMMON,
    amount: { ...COMMON.amount, default: { burst: 'all', at: 1 } },
    holds: choice({
      label: 'Fills',
      help: 'What a closed mesh encloses, or what a vessel with walls holds without spilling',
      default: 'inside',
      options: { inside: 'its inside', hollow: 'its hollow' },
    }),
    level: number({
      label: 'Level',
      unit: '×',
      help: 'How high, as a share of the height of the mesh as it stands',
      default: 0.6,
      range: [0, 1],
      usual: [0, 1],
      step: 0.01,
    }),
    bottom: number({
      label: 'From',
      unit: '×',
      help: 'Where it begins, as Level: oil on brine begins where brine ends',
      default: 0,
      range: [0, 1],
      usual: [0, 1],
      step: 0.01,
    }),
  },
  fills: true,
  prepare({ level, bottom, holds }, { liquid, ...mesh }) {
    // whoever gives birth has it
    const source = { ...mesh, ...liquid! }
    const positions = cellsToFill(source, bottom, level, holds === 'hollow')
    const offered = positions.length / 3
    return {
      offered,
      points(ids, turns) {
        return {
          triangles: new Uint32Array(ids.length).fill(RIGID),
          weights: new Float32Array(ids.length * 2),
          positions: pickPoints(positions, ids.length, (i) => (turns?.[i] ?? ids[i]!) % offered),
          normals: () => upward(source.place, ids.length),
        }
      },
    }
  },
})

/** Off the surface is up. */
function upward(place: Affine, count: number): Float32Array {
  const back = inverse(place)
  const [o, y] = [transform(back, [0, 0, 0]), transform(back, [0, 1, 0])]
  return Float32Array.from({ length: count * 3 }, (_, k) => y[k % 3]! - o[k % 3]!)
}

interface Grid {
  low: Vector
  /** Cells along x, y and z. */
  size: [number, number, number]
  /** 1 where the middle of a cell is inside the mesh; x goes fastest, then z, then y. */
  solid: Uint8Array
  points: Float32Array
}

/** Middles of the cells that are filled, in the mesh's own space, layer by layer. */
function cellsToFill(source: Filled, bottom: number, level: number, hollow: boolean): Float32Array {
  const width = source.diameter
  const { low, high } = worldBounds(source)
  const top = low[1] + level * (high[1] - low[1])
  // what is held by thin walls needs room around it for what is not
  const rim = hollow ? 1 : 0
  const grid = gridOver(source, low, [high[0], top, high[2]], width, rim)
  const kept = hollow
    ? held(grid, closestPoints(source.machine, source.tree(), grid.points).points, wallsIn(source, grid))
    : grid.solid
  const out: number[] = []
  // rounded as the level of what lies below
  const first = (rim + Math.round((bottom * (high[1] - low[1])) / width)) * grid.size[0] * grid.size[2]
  for (let n = first; n < kept.length; n++)
    if (kept[n]) out.push(grid.points[n * 3]!, grid.points[n * 3 + 1]!, grid.points[n * 3 + 2]!)
  return Float32Array.from(out)
}

function worldBounds({ facts, place }: Filled): { low: Vector; high: Vector } {
  const [low, high]: [Vector, Vector] = [
    [Infinity, Infinity, Infinity],
    [-Infinity, -Infinity, -Infinity],
  ]
  for (let corner = 0; corner < 8; corner++) {
    const at = [0, 1, 2].map((axis) => ((corner >> axis) & 1 ? facts.high : facts.low)[axis]!) as Vector
    transform(place, at).forEach((x, axis) => {
      low[axis] = Math.min(low[axis]!, x)
      high[axis] = Math.max(high[axis]!, x)
    })
  }
  return { low, high }
}

/** A grid over a box, from its floor up, with so many cells more below it and on its four sides. */
function gridOver(source: Filled, low: Vector, high: Vector, width: number, rim: number): Grid {
  const { machine, place } = source
  const cells = (x: number, axis: number): number => Math.round((x - low[axis]!) / width)
  const size = high.map((x, axis) => axis === 1 ? Math.max(0, cells(x, axis) + rim) : Math.max(1, cells(x, axis)) + 2 * rim) as Grid['size'] // prettier-ignore
  const all = size[0] * size[1] * size[2]
  if (all > MOST_CELLS)
    throw new BirthError(
      `To fill ${source.named} would take a grid of ${Math.round(all / 1e6)} million cells: make the particles larger than ${(width / 2).toPrecision(3)} m`,
    )
  // the grid stands in the middle of the box, and on its floor
  const first = low.map((x, axis) =>
    axis === 1 ? x + width * (0.5 - rim) : (x + high[axis]! - width * (size[axis]! - 1)) / 2,
  ) as Vector
  const points = new Float32Array(all * 3)
  const back = inverse(place)
  for (let n = 0; n < all; n++) {
    const [i, k, j] = [n % size[0], Math.floor(n / size[0]) % size[2], Math.floor(n / (size[0] * size[2]))]
    points.set(transform(back, [first[0] + i * width, first[1] + j * width, first[2] + k * width]), n * 3)
  }
  const solid = all === 0 ? new Uint8Array() : Uint8Array.from(windingNumbers(machine, source.tree(), points), (w) => (w > 0.5 ? 1 : 0)) // prettier-ignore
  return { low: first, size, solid, points }
}

/** By how many cells further on the next one lies: at what share of the way there from each cell the surface is met, above 1 where it is not. */
function wallsIn({ machine, tree }: Filled, { size: [x, , z], points }: Grid): Map<number, Float32Array> {
  const { heap } = machine
  const count = points.length / 3
  const blocks = [12, 12, 4, 4].map((bytes) => heap.allocate(Math.max(1, count) * bytes))
  const [origins, ways, outShare, outTriangle] = blocks as [number, number, number, number]
  heap.f32(origins, count * 3).set(points)
  const { quads, vertices, stack } = tree()
  const walls = [1, x, x * z].map((step): [number, Float32Array] => {
    const way = heap.f32(ways, count * 3).fill(0)
    for (let k = 0; k + step * 3 < points.length; k++) way[k] = points[k + step * 3]! - points[k]!
    machine.run('castRays', count, { origins, ways, quads, vertices, stack, outShare, outTriangle })
    return [step, heap.f32(outShare, count).slice()]
  })
  for (const block of blocks) heap.free(block)
  return new Map(walls)
}

/**
 * Cells that are not inside and from which no way leads out of the grid, but over its top: what a vessel holds. A way leads through a wall where it
 * passes through the surface, and where it goes on beyond the place nearest to where it begins (`nearest`), lest it slip through a seam.
 */
function held(
  { size: [x, y, z], solid, points }: Grid,
  nearest: Float32Array,
  walls: Map<number, Float32Array>,
): Uint8Array {
  const kept = solid.map((one) => 1 - one)
  const queue: number[] = []
  const leave = (n: number): void => {
    kept[n] = 0
    queue.push(n)
  }
  const beyond = (n: number, m: number): boolean => {
    let along = 0
    for (let axis = 0; axis < 3; axis++) {
      const foot = nearest[n * 3 + axis]!
      along += (points[m * 3 + axis]! - foot) * (foot - points[n * 3 + axis]!)
    }
    return along > 0
  }
  const go = (n: number, m: number): void => {
    if (!kept[m] || walls.get(Math.abs(m - n))![Math.min(n, m)]! <= 1) return
    if (!beyond(n, m) && !beyond(m, n)) leave(m)
  }
  const rowOf = (n: number): [number, number, number] => [
    n % x,
    Math.floor(n / x) % z,
    Math.floor(n / (x * z)),
  ]
  for (let n = 0; n < kept.length; n++) {
    const [i, k, j] = rowOf(n)
    if (kept[n] && (i === 0 || i === x - 1 || k === 0 || k === z - 1 || j === 0)) leave(n)
  }
  while (queue.length > 0) {
    const n = queue.pop()!
    const [i, k, j] = rowOf(n)
    if (i > 0) go(n, n - 1)
    if (i < x - 1) go(n, n + 1)
    if (k > 0) go(n, n - x)
    if (k < z - 1) go(n, n + x)
    if (j > 0) go(n, n - x * z)
    if (j < y - 1) go(n, n + x * z)
  }
  return kept
}
