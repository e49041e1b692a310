import type { Mesh, VertexData } from './mesh.ts'

/** Most triangles that splitting may lead to. */
const MOST_TRIANGLES = 600_000

/**
 * Splits triangles until no edge is longer than `longest`, edges at their middle. Neighbours share the
 * middle, so a closed mesh stays closed; the surface itself does not change.
 * @param scale size of the place along the mesh's own axes; `longest` is in world metres
 */
export function refine(mesh: Mesh, longest: number, scale: readonly number[] = [1, 1, 1]): Mesh {
  let current = mesh
  for (let pass = 0; pass < 24; pass++) {
    const next = splitOnce(current, longest, scale)
    if (next === current) return current
    current = next
  }
  return current
}

/** The longest edge that "auto" allows: a ninetieth of the mesh, and no more than 80 000 triangles or so. */
export function automaticDetail(area: number, diagonal: number): number {
  // an equilateral triangle of edge a has area a²·√3/4; splitting leaves edges of about 0.7 of the longest
  return Math.max(diagonal / 90, Math.sqrt(area / (80_000 * 0.2)))
}

function splitOnce(mesh: Mesh, longest: number, scale: readonly number[]): Mesh {
  const { positions, triangles, uvs } = mesh
  const count = positions.length / 3
  const middles = new Map<number, number>()
  const added: number[] = []
  /** The two vertices that each new one lies between. */
  const ends: number[] = []
  const middleOf = (a: number, b: number): number => {
    let squared = 0
    for (let axis = 0; axis < 3; axis++) {
      squared += ((positions[a * 3 + axis]! - positions[b * 3 + axis]!) * scale[axis]!) ** 2
    }
    if (squared <= longest * longest) return -1
    const key = Math.min(a, b) * count + Math.max(a, b)
    let vertex = middles.get(key)
    if (vertex === undefined) {
      vertex = count + middles.size
      middles.set(key, vertex)
      ends.push(a, b)
      for (let axis = 0; axis < 3; axis++)
        added.push((positions[a * 3 + axis]! + positions[b * 3 + axis]!) / 2)
    }
    return vertex
  }
  const out: number[] = []
  const outUvs: number[] = []
  const sources: number[] = []
  const materials: number[] = []
  for (let t = 0; t < triangles.length; t += 3) {
    const corners = [triangles[t]!, triangles[t + 1]!, triangles[t + 2]!]
    const middle = corners.map((a, k) => middleOf(a, corners[(k + 1) % 3]!))
    const before = out.length
    const cut = middle.filter((m) => m >= 0).length
    if (cut === 0) out.push(...corners)
    else if (cut === 3) {
      const [a, b, c] = corners as [number, number, number]
      const [ab, bc, ca] = middle as [number, number, number]
      out.push(a, ab, ca, ab, b, bc, ca, bc, c, ab, bc, ca)
    } else {
      // turn the triangle so that its first edge is split, and with two the last one is not
      const first = cut === 1 ? middle.findIndex((m) => m >= 0) : (middle.findIndex((m) => m < 0) + 1) % 3
      const [a, b, c] = [0, 1, 2].map((k) => corners[(first + k) % 3]!) as [number, number, number]
      const ab = middle[first]!
      if (cut === 1) out.push(a, ab, c, ab, b, c)
      else {
        const bc = middle[(first + 1) % 3]!
        out.push(ab, b, bc, a, ab, bc, a, bc, c)
      }
    }
    const source = mesh.splitFrom?.triangles[t / 3] ?? t / 3
    for (let k = before; k < out.length; k += 3) {
      sources.push(source)
      if (mesh.materials) materials.push(mesh.materials[t / 3]!)
    }
    if (uvs) for (const vertex of out.slice(before)) outUvs.push(...uvAt(uvs, t, vertex, corners, middle))
  }
  if (middles.size === 0 || out.length / 3 > MOST_TRIANGLES) return mesh
  const all = new Float32Array(positions.length + added.length)
  all.set(positions)
  all.set(added, positions.length)
  return {
    positions: all,
    triangles: new Uint32Array(out),
    ...(uvs ? { uvs: new Float32Array(outUvs) } : {}),
    ...(mesh.materials ? { materials: Uint16Array.from(materials) } : {}),
    ...(mesh.data ? { data: withMiddles(mesh.data, ends) } : {}),
    ...(mesh.motion
      ? { motion: { ...mesh.motion, middles: Uint32Array.from([...mesh.motion.middles, ...ends]) } }
      : {}),
    splitFrom: { mesh: mesh.splitFrom?.mesh ?? mesh, triangles: new Uint32Array(sources) },
  }
}

/** What vertices carry, and between two of them the mean. */
function withMiddles(data: Record<string, VertexData>, ends: number[]): Record<string, VertexData> {
  const of = ({ width, values }: VertexData): VertexData => {
    const added = Float32Array.from({ length: (ends.length / 2) * width }, (_, k) => {
      const [n, part] = [Math.floor(k / width), k % width]
      return (values[ends[n * 2]! * width + part]! + values[ends[n * 2 + 1]! * width + part]!) / 2
    })
    const all = new Float32Array(values.length + added.length)
    all.set(values)
    all.set(added, values.length)
    return { width, values: all }
  }
  return Object.fromEntries(Object.entries(data).map(([name, one]) => [name, of(one)]))
}

/** Texture coordinates of a corner or the middle of an edge of the triangle that starts at t. */
function uvAt(uvs: Float32Array, t: number, vertex: number, corners: number[], middle: number[]): number[] {
  const corner = corners.indexOf(vertex)
  const [a, b] = corner >= 0 ? [corner, corner] : [middle.indexOf(vertex), (middle.indexOf(vertex) + 1) % 3]
  return [0, 1].map((k) => (uvs[(t + a) * 2 + k]! + uvs[(t + b) * 2 + k]!) / 2)
}
