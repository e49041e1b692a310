/** A broken mesh that is whole shows no seam: its outside is closed across its pieces, to the bit. */
import * as THREE from 'three'
import { defaultsOf, FRACTURE, pieceCount, weld, type FractureSource, type Mesh } from '../src/index.ts'
import { createMachine } from '@tangle/kernels'
import { fracture } from '../src/fracture/fracture.ts'
import { manifold } from './rigidHelp.ts'

const machine = createMachine()
async function broken(geometry: THREE.BufferGeometry, size: number, more: Partial<FractureSource>): Promise<Mesh> {
  const plain = geometry.toNonIndexed()
  const positions = Float32Array.from(plain.attributes.position!.array, (x, k) => size * (x + [0.3, -2, 1][k % 3]!))
  const mesh = weld({ positions, triangles: Uint32Array.from({ length: positions.length / 3 }, (_, k) => k) })
  const source = { ...(defaultsOf(FRACTURE) as unknown as FractureSource), mesh: 'x', ...more }
  return fracture({ manifold: await manifold(), machine, density: null }, mesh, source)
} // prettier-ignore

/** Edges of the outside that no other triangle of it has the other way round, as a share of all; and all. */
function openEdges({ positions: p, triangles, pieces }: Mesh): { open: number; edges: number } {
  const nameOf = (v: number): string => p.subarray(v * 3, v * 3 + 3).join()
  const edges = new Set<string>()
  for (let c = 0; c < triangles.length; c++) {
    if (pieces!.inner[Math.floor(c / 3)]) continue
    edges.add(`${nameOf(triangles[c]!)} ${nameOf(triangles[c % 3 === 2 ? c - 2 : c + 1]!)}`)
  }
  const open = [...edges].filter((edge) => !edges.has(edge.split(' ').reverse().join(' '))).length
  return { open, edges: edges.size }
}

const BALL = new THREE.SphereGeometry(1, 48, 32)
const RING = new THREE.TorusGeometry(1, 0.4, 24, 48)
const BLOCK = new THREE.BoxGeometry(2, 1, 3)
test.each([
  ['ball', 0.004, BALL, { pieces: 60, seeds: 'even' }],
  ['ball', 1, BALL, { pieces: 350, seeds: 'even' }],
  ['ring', 300, RING, { pieces: 120, seeds: 'random' }],
  ['block', 1, BLOCK, { pieces: 200, seeds: 'random', stretch: 4 }],
  ['ball with rough faces', 2, BALL, { pieces: 20, seeds: 'random', rough: 0.05 }],
] as const)('a %s of %d m: its outside is closed when its pieces are together', async (_, size, geometry, more) => {
  const mesh = await broken(geometry, size, more)
  expect(pieceCount(mesh)).toBeGreaterThanOrEqual(more.pieces)
  const { open, edges } = openEdges(mesh)
  expect(edges).toBeGreaterThan(1000)
  expect(open).toBe(0)
}) // prettier-ignore
