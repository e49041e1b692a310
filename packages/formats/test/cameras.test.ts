/** Cameras of a shot in glTF, read by a library of others. */
import { completeCamera, type Shot } from '@tangle/core'
import { WebIO, type Node } from '@gltf-transform/core'
import { validateBytes } from 'gltf-validator'
import { EXPORTS, OUR_SPACE, type Frames } from '../src/index.ts'
import { shot as plain } from './take.ts'

async function nodesOf(cameras: object[], frame: number): Promise<Node[]> {
  const shot = { ...plain, populations: [], meshes: [], cameras: cameras.map((one) => completeCamera(one as never)) } as Shot // prettier-ignore
  const frames = { first: frame, last: frame, times: [frame], digits: 4, space: OUR_SPACE, read: () => Promise.resolve({ frame, populations: [], meshes: [] }) } // prettier-ignore
  const pieces: Uint8Array[] = []
  for await (const file of EXPORTS.find(({ kind }) => kind === 'glb')!.files(
    shot,
    frames as unknown as Frames,
    new Map(),
  ))
    // prettier-ignore
    for await (const piece of file.pieces) pieces.push(piece)
  const bytes = Uint8Array.from(Buffer.concat(pieces))
  expect((await validateBytes(bytes)).issues.messages.filter(({ severity }) => severity < 2)).toEqual([])
  return (await new WebIO().readBinary(bytes)).getRoot().listNodes()
}
const columnOf = (node: Node, k: number): number[] => node.getWorldMatrix().slice(k * 4, k * 4 + 3)
const keyed = (...keys: [number, number][]) => ({ keys })

test('it stands where its keys say, looks at what it looks at, upright, through a lens of its angle', async () => {
  const [node] = await nodesOf([{ id: 'wide', name: 'Wide', position: [keyed([1, 0], [11, 10]), 2, 5], target: [0, 1, 0], focalLength: 35, aspect: '16:9' }], 6) // prettier-ignore
  expect(node!.getName()).toBe('Wide')
  expect(node!.getTranslation()).toEqual([5, 2, 5])
  const way = [0 - 5, 1 - 2, 0 - 5].map((x) => x / Math.hypot(5, 1, 5))
  columnOf(node!, 2).forEach((x, k) => expect(x).toBeCloseTo(-way[k]!, 5))
  // the horizon is level, and up is up
  expect(columnOf(node!, 0)[1]).toBeCloseTo(0, 6)
  expect(columnOf(node!, 1)[1]).toBeGreaterThan(0.9)
  const camera = node!.getCamera()!
  // film 36 mm wide: the upright angle of 35 mm at 16:9 is 2·atan(36/16·9/2/35)
  expect(camera.getYFov()).toBeCloseTo(2 * Math.atan((36 * 9) / 16 / 2 / 35), 5)
  expect(camera.getAspectRatio()).toBeCloseTo(16 / 9, 5)
})

test('roll turns it about the way it looks, as on the stage: by the right hand, ahead', async () => {
  const [node] = await nodesOf([{ id: 'c', name: 'C', position: [0, 0, 5], target: [0, 0, 0], roll: 30 }], 1)
  // ahead is −z: y turned about it by 30° leans to +x
  columnOf(node!, 1).forEach((x, k) => expect(x).toBeCloseTo([Math.sin(Math.PI / 6), Math.cos(Math.PI / 6), 0][k]!, 5)) // prettier-ignore
})

test.each([
  ['straight down', [0, 5, 0]],
  ['straight up', [0, -5, 0]],
  ['at itself', [0, 0, 0]],
])('one that looks %s has a sound pose', async (_, position) => {
  const [node] = await nodesOf([{ id: 'c', name: 'C', position, target: [0, 0, 0] }], 1)
  const columns = [0, 1, 2].map((k) => columnOf(node!, k))
  for (const column of columns) expect(Math.hypot(...column)).toBeCloseTo(1, 5)
  for (const [a, b] of [
    [0, 1],
    [0, 2],
    [1, 2],
  ] as const)
    // prettier-ignore
    expect(columns[a]!.reduce((sum, x, k) => sum + x * columns[b]![k]!, 0)).toBeCloseTo(0, 5)
})

test('several have nodes of their own, beside the particles', async () => {
  const names = (await nodesOf([{ id: 'a', name: 'A' }, { id: 'b', name: 'B' }], 1)).map((one) => one.getName()) // prettier-ignore
  expect(names).toEqual(['A', 'B'])
})
