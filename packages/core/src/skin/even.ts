/** Evens out the vertices of a closed mesh and keeps its volume (Taubin, "A signal processing approach to fair surface design", 1995). */
import type { Mesh } from '../geometry/mesh.ts'

/** A step towards the middle of the neighbours, and a longer one back. */
const STEPS = [0.5, -0.53]

export function evenOut({ positions, triangles }: Mesh, rounds: number): void {
  const middle = new Float32Array(positions.length)
  const found = new Uint32Array(positions.length / 3)
  for (let round = 0; round < rounds; round++)
    for (const step of STEPS) {
      middle.fill(0)
      found.fill(0)
      for (let c = 0; c < triangles.length; c++) {
        // the corner after it: each edge is there once from either end
        const [v, next] = [triangles[c]!, triangles[c % 3 === 2 ? c - 2 : c + 1]!]
        found[v]!++
        for (let k = 0; k < 3; k++) middle[v * 3 + k]! += positions[next * 3 + k]!
      }
      for (let k = 0; k < positions.length; k++) {
        const n = found[Math.floor(k / 3)]!
        if (n > 0) positions[k]! += step * (middle[k]! / n - positions[k]!)
      }
    }
}
