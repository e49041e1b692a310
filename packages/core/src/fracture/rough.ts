/** Rough faces of cells: both sides of a face are moved by the same field, so that what is broken fits together. */
import { randoms, STREAM } from '../math/random.ts'
import { add, cross, length, scale, subtract, type Vector } from '../math/vector.ts'
import { onSphere } from '../math/gradients.ts'
import type { FractureSource } from '../document/types.ts'
import type { Cell } from './cells.ts'

/** How far a place is moved. */
export type Displacement = (p: Vector) => Vector

/** Height of the roughness as a share of its wavelength, at most. */
const STEEPEST = 1 / 16
/** Waves that make up the roughness. */
const WAVES = 24
/** Each side of a triangle of a fan is cut into so many. */
const PARTS = 6

/**
 * A sum of plane waves of wavelengths about the asked one, of random directions: smooth everywhere, and the same for both sides of a
 * face. Source: random Fourier features of a band-limited field, common practice.
 */
export function roughness({ rough, roughScale, seed }: FractureSource): Displacement {
  // steeper it would fold over
  const height = Math.min(rough, STEEPEST * roughScale)
  const waves = Array.from({ length: WAVES }, (_, k) => {
    const [a, b, c, d] = randoms(seed, k, STREAM.fracture, 2)
    const [e, f] = randoms(seed, k, STREAM.fracture, 3)
    return {
      along: scale(onSphere(a, b), (2 * Math.PI * (0.5 + c)) / roughScale),
      phase: 2 * Math.PI * d,
      moves: scale(onSphere(e, f), height * Math.sqrt(2 / WAVES)),
    }
  })
  return (p) => {
    let moved: Vector = [0, 0, 0]
    for (const { along, phase, moves } of waves) {
      const angle = along[0] * p[0] + along[1] * p[1] + along[2] * p[2] + phase
      moved = add(moved, scale(moves, wave(angle)))
    }
    return add(p, moved)
  }
}

/** A smooth wave of period 2π and amplitude 1, made of operations that are the same everywhere: x·(1 − |x|)·4 of the phase. */
function wave(angle: number): number {
  const turns = angle / (2 * Math.PI)
  const x = 2 * (turns - Math.floor(turns)) - 1
  return 4 * x * (1 - Math.abs(x))
}

/** A cell as triangles: fans about the middles of its faces; where it is rough, each cut finely and moved. */
export function roughCell(
  { vertices, faces }: Cell,
  displace: Displacement | null,
): { vertices: Vector[]; triangles: number[] } {
  const out = vertices.slice()
  const triangles: number[] = []
  const middles = new Map<string, number>()
  for (const { loop } of faces) {
    if (!displace) {
      for (let k = 1; k + 1 < loop.length; k++) triangles.push(loop[0]!, loop[k]!, loop[k + 1]!)
      continue
    }
    const c = out.push(middleOf(loop.map((v) => vertices[v]!))) - 1
    loop.forEach((a, k) => cutFinely(out, middles, triangles, [c, a, loop[(k + 1) % loop.length]!]))
  }
  return { vertices: displace ? out.map(displace) : out, triangles }
}

/** Middle of a face by area: that of its corners would differ from its other side's where one of two has a corner twice. */
function middleOf(loop: Vector[]): Vector {
  let area = 0
  let sum: Vector = [0, 0, 0]
  for (let k = 1; k + 1 < loop.length; k++) {
    const [a, b, c] = [loop[0]!, loop[k]!, loop[k + 1]!]
    const own = length(cross(subtract(b, a), subtract(c, a)))
    area += own
    sum = add(sum, scale(add(add(a, b), c), own / 3))
  }
  return area > 0 ? scale(sum, 1 / area) : loop[0]!
}

/** A triangle cut into PARTS² of its shape; vertices on its sides are shared with those beside it. */
function cutFinely(
  vertices: Vector[],
  known: Map<string, number>,
  triangles: number[],
  corners: [number, number, number],
): void {
  const at = (i: number, j: number): number => {
    const weights = [PARTS - i - j, i, j]
    const used = corners.map((v, k) => [v, weights[k]!] as const).filter(([, w]) => w > 0)
    if (used.length === 1) return used[0]![0]
    const key = used
      .sort((a, b) => a[0] - b[0])
      .map((one) => one.join())
      .join(' ')
    const found = known.get(key)
    if (found !== undefined) return found
    const sum = used.reduce((p, [v, w]) => add(p, scale(vertices[v]!, w / PARTS)), [0, 0, 0] as Vector)
    known.set(key, vertices.push(sum) - 1)
    return vertices.length - 1
  }
  for (let i = 0; i < PARTS; i++)
    for (let j = 0; i + j < PARTS; j++) {
      triangles.push(at(i, j), at(i + 1, j), at(i, j + 1))
      if (i + j + 1 < PARTS) triangles.push(at(i + 1, j), at(i + 1, j + 1), at(i, j + 1))
    }
}
