/** Vertices that are one place become one vertex, and no others. */
import { meshFacts, weld, type Mesh } from '../src/index.ts'
import { box } from './help.ts'

/** Triangles that share nothing. */
const soup = ({ positions, triangles }: Mesh, change: (x: number, k: number) => number = (x) => x): Mesh => ({
  positions: Float32Array.from({ length: triangles.length * 3 }, (_, k) =>
    change(positions[triangles[Math.floor(k / 3)]! * 3 + (k % 3)]!, k),
  ),
  triangles: triangles.map((_, k) => k),
})
const joined = (...meshes: Mesh[]): Mesh => {
  let first = 0
  const triangles = meshes.flatMap((mesh) => {
    const own = [...mesh.triangles].map((v) => v + first)
    first += mesh.positions.length / 3
    return own
  })
  return {
    positions: Float32Array.from(meshes.flatMap(({ positions }) => [...positions])),
    triangles: Uint32Array.from(triangles),
  }
}

test.each([1e-4, 0.05, 1, 300])('a box of %d m that lies in triangles is closed again, with its eight corners', (size) => {
  expect(meshFacts(weld(soup(box(size, size, size))))).toMatchObject({ vertices: 8, triangles: 12, openEdges: 0 })
}) // prettier-ignore

test.each([
  ['a tenth of a millimetre in a kilometre', 1e-4, 1000],
  ['a millimetre in ten kilometres', 1e-3, 10_000],
])('%s keeps its corners', (_, small, wide) => {
  const both = weld(joined(soup(box(small, small, small)), soup(box(wide, 1, wide))))
  expect(meshFacts(both)).toMatchObject({ vertices: 16, triangles: 24, openEdges: 0, slivers: 0 })
})

test.each([0.2, 5, 2000])('what rounding has parted %d m from the origin is one again', (far) => {
  // each corner of each triangle off by one place of f32 or none
  const ulp = 2 ** (Math.floor(Math.log2(far)) - 23)
  const parted = soup(box(0.1, 0.1, 0.1), (x, k) => Math.fround(x + far) + (k % 3 === 0 && k % 2 ? ulp : 0))
  expect(meshFacts(weld(parted))).toMatchObject({ vertices: 8, openEdges: 0 })
})

test('triangles that are nothing after it are gone', () => {
  const mesh = weld({
    positions: Float32Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 1e-9, 0),
    triangles: Uint32Array.of(0, 1, 2, 0, 3, 1),
  })
  expect([...mesh.triangles]).toEqual([0, 1, 2])
})
