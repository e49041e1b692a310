/**
 * The cases of marching cubes (Lorensen, Cline 1987), made rather than listed. Corner c of a cube is at x = c & 1, y = c & 2, z = c & 4; edge e goes
 * along the axis e >> 2. On a face with four crossings the two corners within are kept apart, from both of its sides, so a surface is closed, and every
 * edge of it has two triangles. The tetrahedra of fracture/isosurface.ts, on a whole grid, have more than twice as many.
 */

/** A loop of crossed edges around a cube, seen from outside against the clock. */
export interface Loop {
  edges: number[]
  /** Touches a face twice: it takes a vertex in its middle, as an edge across that face could be the neighbour's, too. */
  needsMiddle: boolean
}

/** The low corner of an edge. */
export const lowCorner = (edge: number): number => {
  const [axis, at] = [edge >> 2, edge & 3]
  // the bits of the two other axes, in order
  const low = at & 1
  const high = at >> 1
  if (axis === 0) return low * 2 + high * 4
  return axis === 1 ? low + high * 4 : low + high * 2
}
const EDGE_BETWEEN = new Map(
  Array.from({ length: 12 }, (_, edge) => {
    const corner = lowCorner(edge)
    return [corner * 8 + corner + (1 << (edge >> 2)), edge]
  }),
)
const edgeBetween = (a: number, b: number): number => EDGE_BETWEEN.get(Math.min(a, b) * 8 + Math.max(a, b))!

/** The corners of the six faces, from outside against the clock. */
const FACES = [
  [0, 4, 6, 2],
  [1, 3, 7, 5],
  [0, 1, 5, 4],
  [2, 6, 7, 3],
  [0, 2, 3, 1],
  [4, 5, 7, 6],
]

/** By which corners are within, one bit each. */
export const CASES: Loop[][] = Array.from({ length: 256 }, (_, mask) => loopsOf(mask))

function loopsOf(mask: number): Loop[] {
  const within = (corner: number): boolean => ((mask >> corner) & 1) === 1
  const next = new Map<number, { edge: number; face: number }>()
  FACES.forEach((corners, face) => {
    for (let k = 0; k < 4; k++) {
      // where a run of corners within begins, it is cut off from there to its end
      if (!within(corners[k]!) || within(corners[(k + 3) & 3]!)) continue
      let end = k
      while (within(corners[(end + 1) & 3]!)) end++
      const entry = edgeBetween(corners[(k + 3) & 3]!, corners[k]!)
      next.set(entry, { edge: edgeBetween(corners[end & 3]!, corners[(end + 1) & 3]!), face })
    }
  })
  const loops: Loop[] = []
  const left = new Set(next.keys())
  for (const first of next.keys()) {
    if (!left.has(first)) continue
    const [edges, faces]: [number[], number[]] = [[], []]
    for (let edge = first; left.delete(edge); edge = next.get(edge)!.edge) {
      edges.push(edge)
      faces.push(next.get(edge)!.face)
    }
    loops.push({ edges, needsMiddle: new Set(faces).size < faces.length })
  }
  return loops
}
