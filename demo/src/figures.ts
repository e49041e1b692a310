import type { Mesh, Vector } from '@tangle/core'
import { lathe, limb, loft, moved, box, seenFromTheSide, together } from './build.ts'

/** The shapes that others become, and those that something runs over. */

/** A folded paper boat, 40 cm long: a hull pointed at both ends and the peak in its middle. */
export function paperBoat(): Mesh {
  const rim: Vector[] = [
    [-0.2, 0.1, 0],
    [0, 0.06, 0.075],
    [0.2, 0.1, 0],
    [0, 0.06, -0.075],
  ]
  const keel: Vector[] = [
    [-0.11, 0, 0],
    [0, 0, 0.03],
    [0.11, 0, 0],
    [0, 0, -0.03],
  ]
  const peak: Vector = [0, 0.18, 0]
  const positions = new Float32Array([...rim, ...keel, peak].flat())
  const triangles: number[] = []
  for (let i = 0; i < 4; i++) {
    const j = (i + 1) % 4
    triangles.push(4 + i, 4 + j, j, 4 + i, j, i) // the hull's sides
    triangles.push(i, j, 8) // the sail
  }
  triangles.push(4, 7, 6, 4, 6, 5) // the bottom
  return seenFromTheSide({ positions, triangles: new Uint32Array(triangles) })
}

/** A heron folded from paper, 44 cm high: body, neck with its bend, beak, raised wings and thin legs. */
export function paperHeron(): Mesh {
  const body = limb([
    [-0.17, 0.185, 0.004, 0.004],
    [-0.1, 0.215, 0.03, 0.03],
    [0, 0.25, 0.05, 0.055],
    [0.07, 0.275, 0.03, 0.04],
    [0.1, 0.3, 0.012, 0.018],
  ])
  const neck = limb([
    [0.05, 0.27, 0.02, 0.02],
    [0.105, 0.3, 0.017, 0.02],
    [0.1, 0.345, 0.014, 0.016],
    [0.065, 0.38, 0.012, 0.014],
    [0.075, 0.42, 0.012, 0.014],
    [0.11, 0.435, 0.013, 0.016],
    [0.14, 0.428, 0.008, 0.009],
    [0.215, 0.41, 0.001, 0.001],
  ])
  const crest = limb([
    [0.1, 0.44, 0.006, 0.006],
    [0.06, 0.447, 0.004, 0.004],
    [0.015, 0.435, 0.0008, 0.0008],
  ])
  /** From the shoulder outward: length fore and aft, thin, on one side (1) or the other (−1). */
  const wing = (side: number): Mesh => {
    const sections: [z: number, fore: number, aft: number, y: number][] = [
      [0.03, 0.06, -0.1, 0.265],
      [0.12, 0.07, -0.11, 0.35],
      [0.2, 0.03, -0.13, 0.375],
      [0.3, -0.07, -0.15, 0.36],
    ]
    const rings = sections.map(([z, fore, aft, y]): Vector[] => {
      const middle = (fore + aft) / 2
      return [
        [fore, y, z * side],
        [middle, y + 0.006, z * side],
        [aft, y - 0.01, z * side],
        [middle, y - 0.006, z * side],
      ]
    })
    return loft(side > 0 ? rings : rings.reverse())
  }
  const leg = (z: number): Mesh =>
    moved(
      limb([
        [0.09, 0.003, 0.004, 0.003],
        [0.02, 0.006, 0.005, 0.005],
        [0.0, 0.02, 0.005, 0.005],
        [0.025, 0.12, 0.005, 0.005],
        [0.0, 0.24, 0.012, 0.012],
      ]),
      [0, 0, z],
    )
  return seenFromTheSide(together(body, neck, crest, wing(1), wing(-1), leg(0.025), leg(-0.025)))
}

/** A lump that stands out of the figure: where round (turns) and along (0–1), how wide, how far (m). */
type Lump = [round: number, along: number, wide: number, high: number, far: number]

/** The figurehead of a ship, 1.5 m of carved wood: a scroll, a body with folded arms, a head with long hair. */
export function figurehead(): Mesh {
  // spine from the scroll up: x forward, y up; half width (Z) and half depth (X) of the body there
  const spine: [x: number, y: number, width: number, depth: number][] = [
    [-0.12, 0.02, 0.03, 0.03],
    [-0.03, 0.0, 0.06, 0.07],
    [0.02, 0.08, 0.09, 0.1],
    [-0.02, 0.22, 0.13, 0.13],
    [-0.06, 0.4, 0.18, 0.16],
    [-0.05, 0.6, 0.17, 0.15],
    [0.0, 0.76, 0.14, 0.12],
    [0.06, 0.92, 0.18, 0.14],
    [0.1, 1.05, 0.215, 0.14],
    [0.11, 1.14, 0.17, 0.11],
    [0.12, 1.2, 0.075, 0.075],
    [0.145, 1.26, 0.066, 0.075],
    [0.175, 1.31, 0.09, 0.105],
    [0.195, 1.38, 0.105, 0.12],
    [0.2, 1.45, 0.095, 0.11],
    [0.195, 1.5, 0.055, 0.065],
    [0.19, 1.515, 0.012, 0.014],
  ]
  const lumps: Lump[] = [
    [0, 0.475, 0.1, 0.035, 0.03], // the bust
    [0.07, 0.475, 0.035, 0.03, 0.045],
    [-0.07, 0.475, 0.035, 0.03, 0.045],
    [0.12, 0.4, 0.05, 0.03, 0.05], // folded arms
    [-0.12, 0.4, 0.05, 0.03, 0.05],
    [0, 0.385, 0.1, 0.018, 0.055],
    [0, 0.79, 0.018, 0.03, 0.035], // nose, chin and brow
    [0, 0.725, 0.05, 0.018, 0.015],
    [0, 0.845, 0.12, 0.015, 0.012],
    [0.5, 0.7, 0.14, 0.14, 0.05], // hair down the back
    [0.5, 0.55, 0.12, 0.09, 0.05],
  ]
  const [around, along] = [72, 120]
  const wrap = (turns: number): number => turns - Math.round(turns)
  const at = (t: number, k: number): number => {
    const place = t * (spine.length - 1)
    const i = Math.min(spine.length - 2, Math.floor(place))
    const [a, b, c, d] = [i - 1, i, i + 1, i + 2].map(
      (j) => spine[Math.max(0, Math.min(spine.length - 1, j))]![k]!,
    ) as [number, number, number, number]
    const f = place - i // Catmull–Rom through the sections
    return b + 0.5 * f * (c - a + f * (2 * a - 5 * b + 4 * c - d + f * (3 * (b - c) + d - a)))
  }
  const carved = (round: number, t: number): number => {
    const folds =
      t < 0.42 ? 0.012 * Math.cos(round * 2 * Math.PI * 14 + t * 9) * Math.min(1, 8 * t * (0.42 - t) * 5) : 0
    const locks =
      t > 0.45 && t < 0.97 && Math.abs(wrap(round)) > 0.2
        ? 0.006 * Math.cos(round * 2 * Math.PI * 20 + t * 30)
        : 0
    return lumps.reduce(
      (sum, [r, a, wide, high, far]) =>
        sum + far * Math.exp(-((wrap(round - r) / wide) ** 2) - ((t - a) / high) ** 2),
      folds + locks,
    )
  }
  const rings = Array.from({ length: along + 1 }, (_, i) => {
    const t = i / along
    return Array.from({ length: around }, (_, s): Vector => {
      const turn = (2 * Math.PI * s) / around
      const more = carved(s / around, t) * Math.min(1, t * 30, (1 - t) * 30)
      return [
        at(t, 0) + (Math.max(0.004, at(t, 3)) + more) * Math.cos(turn),
        at(t, 1),
        -(Math.max(0.004, at(t, 2)) + more) * Math.sin(turn),
      ]
    })
  })
  return loft(rings)
}

/** A paved quay, 60 × 24 m, its edge and eight bollards: mass for a crowd. */
export function quay(): Mesh {
  const bollards = Array.from({ length: 8 }, (_, i) =>
    moved(
      lathe(
        [
          [0, 0],
          [0.32, 0],
          [0.3, 0.5],
          [0.42, 0.6],
          [0.42, 0.72],
          [0, 0.8],
        ],
        24,
      ),
      [-26.25 + i * 7.5, 0, 11.2],
    ),
  )
  return together(
    moved(box(60, 1.2, 24), [0, -0.6, 0]),
    moved(box(60, 0.15, 0.5), [0, 0.02, 11.75]),
    ...bollards,
  )
}
