import { completeMesh, massProperties, pieceCount, sourceKey, type Vector } from '../src/index.ts'
import { box } from './help.ts'
import { brokenShot, meshesOf } from './rigidHelp.ts'

test.each([[1, [1, 1, 1]], [5, [1, 1, 1]], [2, [0.01, 3, 40]]] as [number, Vector][])('seeds are told where they are sown: each in its own piece, stretched %d times, sized %j', async (stretch, scale) => {
  const shot = brokenShot({ pieces: 24, stretch, along: [0, 1, 0], seed: 3 }, {}, {}, { scale })
  const meshes = await meshesOf(shot, box(1, 2, 3))
  const out = meshes.get(sourceKey(shot.meshes[1]!.source, shot))!
  const { seeds } = out.pieces!
  expect(seeds).toHaveLength(24 * 3)
  massProperties(out, scale).forEach(({ reach, centre }, k) => {
    const seed = [...seeds.subarray(k * 3, k * 3 + 3)] as Vector
    seed.forEach((x, axis) => expect(Math.abs(x)).toBeLessThanOrEqual([0.5, 1, 1.5][axis]!))
    expect(Math.hypot(...seed.map((x, axis) => x * scale[axis]! - centre[axis]!))).toBeLessThan(reach)
  })
}) // prettier-ignore

test('a shell can be broken, and a mask says where seeds are dense', async () => {
  const shot = brokenShot({ pieces: 60, seeds: 'random', density: 'low' }, {}, {
    masks: [{ id: 'low', kind: 'slab', normal: [0, 1, 0], at: [0, 0, 0], width: 10 }].map(({ id }) => ({ id, kind: 'ball', centre: [0, -0.5, 0], radius: 0.6, soft: 0 })),
  })
  const mesh = (await meshesOf(shot)).get(sourceKey(shot.meshes[1]!.source, shot))!
  const low = massProperties(mesh, [1, 1, 1]).filter(({ centre }) => centre[1] < 0)
  expect(low.length / pieceCount(mesh)).toBeGreaterThan(0.8)
  const nested = brokenShot({ mesh: 'skin', pieces: 12 }, {}, { meshes: [completeMesh({ id: 'skin', source: { shell: { mesh: 'box', gap: 0.02, thickness: 0.08, detail: 2 } } })] })
  const made = await meshesOf(nested)
  expect(pieceCount(made.get(sourceKey(nested.meshes[1]!.source, nested))!)).toBeGreaterThanOrEqual(12)
}) // prettier-ignore
