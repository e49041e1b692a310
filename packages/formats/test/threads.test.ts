/** Threads in files, read by others: three's PLY and glTF loaders, and a USD parser; in metres and in centimetres. */
import { parse as parseUsda } from '@kroxilon/usda-parser'
import { createMachine } from '@tangle/kernels'
import { createSimulation, readShot, weld, type Mesh, type Shot } from '@tangle/core'
import { GLTFLoader } from 'three/addons/loaders/GLTFLoader.js'
import { PLYLoader } from 'three/addons/loaders/PLYLoader.js'
import type { LineSegments, Object3D } from 'three'
import { EXPORTS, type CachedFrame, type Frames } from '../src/index.ts'
import { frameIn, OUR_SPACE, type Space } from '../src/export/space.ts'

const ASSET = `sha256:${'0'.repeat(64)}`
const corners: Mesh = weld({
  positions: Float32Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0),
  triangles: new Uint32Array(),
})
const { shot } = readShot({
  format: 'tangle-shot',
  version: 1,
  name: 'Threads',
  frames: { first: 1, last: 12, rate: 24 },
  meshes: [{ id: 'corners', source: { asset: ASSET } }],
  populations: [
    { id: 'rays', births: [{ id: 'b', kind: 'vertices', mesh: 'corners', into: 'Loose', amount: { burst: 'all', at: 1 }, aim: 'direction', direction: [0, 0, 1], speed: 2 }] },
    { id: 'marks', births: [{ id: 'm', kind: 'particles', from: 'rays', into: 'Loose', amount: { spacing: 0.2 } }], look: { threads: { frames: 4, reach: 5, width: 0.03, opacity: 0.25 } } },
  ],
}) as { shot: Shot } // prettier-ignore

/** Frames 10 to 12 as a take has them. */
const cached = new Map<number, CachedFrame>()
beforeAll(() => {
  const simulation = createSimulation(createMachine(), shot, new Map([[ASSET, corners]]))
  while (simulation.frame < 12 && simulation.advance()) {
    const populations = simulation.populations().map(({ id, count, columns }) => ({ id, count, columns: Object.fromEntries(Object.entries(columns).map(([name, values]) => [name, values!.slice()])) }))
    if (simulation.frame >= 10) cached.set(simulation.frame, { frame: simulation.frame, populations, meshes: [] })
  } // prettier-ignore
})

async function written(kind: string, space: Space = OUR_SPACE): Promise<Map<string, Uint8Array>> {
  const read = (frame: number) => Promise.resolve(frameIn(space, cached.get(frame)!))
  const frames: Frames = { first: 10, last: 12, times: [10, 11, 12], digits: 4, space, read } as Frames
  const out = new Map<string, Uint8Array>()
  for await (const { name, pieces } of EXPORTS.find((one) => one.kind === kind)!.files(shot, frames, new Map())) {
    const all: Uint8Array[] = []
    for await (const piece of pieces) all.push(piece)
    out.set(name, new Uint8Array(Buffer.concat(all)))
  }
  return out
} // prettier-ignore

/** Children of at most four frames at a frame: each with its own place and that of its parent. */
function expected(frame: number): { from: number[]; to: number[] }[] {
  const [rays, marks] = cached.get(frame)!.populations.map(({ columns }) => columns)
  return Array.from(marks!.id!).flatMap((_, i) => {
    if (marks!.age![i]! * 24 > 4) return []
    const parent = Array.from(rays!.id!).indexOf(marks!.parent![i]!)
    const at = (columns: typeof rays, k: number) => [...columns!.position!.slice(k * 3, k * 3 + 3)]
    return [{ from: at(marks, i), to: at(rays, parent) }]
  })
}

test.each([['m', 1], ['cm', 100]] as const)('PLY in %s: lines from child to parent, as wide as they are', async (unit, per) => {
  const bytes = (await written('ply', { unit, up: 'y' })).get('marks.threads.0012.ply')!
  const loader = new PLYLoader()
  loader.setCustomPropertyNameMapping({ width: ['width'] })
  const geometry = loader.parse(bytes.buffer as ArrayBuffer)
  const lines = expected(12)
  expect(lines.length).toBeGreaterThan(3)
  const place = geometry.getAttribute('position')
  expect(place.count).toBe(lines.length * 2)
  lines.forEach(({ from, to }, n) => {
    for (const [end, k] of [[from, 2 * n], [to, 2 * n + 1]] as const)
      expect([place.getX(k), place.getY(k), place.getZ(k)]).toEqual(end.map((x) => expect.closeTo(x * per, 3) as number))
  })
  expect(geometry.getAttribute('width').getX(0)).toBeCloseTo(0.03 * per, 5)
  expect(new TextDecoder().decode(bytes)).toContain(`element edge ${lines.length}`)
}) // prettier-ignore

test('USD: linear curves of two points each', async () => {
  const usd = new TextDecoder().decode([...(await written('usda')).entries()].find(([name]) => name.endsWith('.usda'))![1]) // prettier-ignore
  const tree = JSON.stringify(parseUsda(usd))
  for (const word of ['BasisCurves', 'marks_threads', 'curveVertexCounts', 'linear'])
    expect(tree).toContain(word)
  const counts = /int\[\] curveVertexCounts\.timeSamples = \{[^}]*12: \[([^\]]*)\]/.exec(usd)![1]!.split(', ')
  expect([counts.length, new Set(counts)]).toEqual([expected(12).length, new Set(['2'])])
})

test('glTF and VTK: as many lines', async () => {
  const glb = (await written('glb')).get('0011.glb')!
  const { scene } = await new GLTFLoader().parseAsync(glb.slice().buffer as ArrayBuffer, '')
  let found: Object3D | undefined
  scene.traverse((one) => (found = one.name === 'marks_threads' ? one : found))
  expect((found as LineSegments).geometry.getIndex()!.count).toBe(2 * expected(11).length)
  expect([...(await written('vtp')).keys()]).toContain('marks.threads.0011.vtp')
})
