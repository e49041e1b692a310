import { massProperties, sourceKey, type Vector } from '../src/index.ts'
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
