/** Meshes that are round roll like balls, as pieces and as instances; those that only look so from afar tumble. */
import { meshShape } from '../src/constraints/bodyShape.ts'
import type { Mesh } from '../src/index.ts'
import { box, sphere } from './help.ts'
import { brokenShot, meshesOf, simulate } from './rigidHelp.ts'

const acting = (size: number) => [
  // at any size as in the same time
  { id: 'g', kind: 'gravity', weights: { Free: 1 }, strength: size },
  { id: 'r', kind: 'rigid', weights: { Free: 1 }, spinDamping: 0, bounce: 0, friction: 0.5, sliding: 0.4 },
  { id: 'f', kind: 'floor', weights: { Free: 1 }, bounce: 0, friction: 0.5, sliding: 0.4 },
]

/** Speed after two seconds, as a share of what it set out with. */
async function keptSpeed(mesh: Mesh, size: number, substeps: number): Promise<number> {
  const births = [{ id: 'b', kind: 'pieces', mesh: 'broken', amount: { burst: 'all', at: 1 }, into: 'Free', aim: 'direction', direction: [1, 0, 0], speed: size }]
  const shot = brokenShot(
    { pieces: 1 },
    { births, influences: acting(size) },
    { quality: { substeps, iterations: 4 } },
    { position: [0, 0.1 * size, 0], scale: [0.1 * size, 0.1 * size, 0.1 * size] },
  )
  const simulation = await simulate(shot, await meshesOf(shot, mesh))
  for (let n = 0; n < 48; n++) simulation.advance()
  return simulation.populations()[0]!.columns.velocity![0]! / size
} // prettier-ignore

// from sliding to rolling a ball keeps 5/7 of its speed, whatever the friction: Coriolis (1835)
test.each([[16, 0.01, 4], [24, 1, 3], [40, 20, 8]])('a ball of %d rings rolls on, at %d m and %d substeps', async (rings, size, substeps) => {
  const kept = await keptSpeed(sphere(rings), size, substeps)
  expect(kept).toBeGreaterThan(0.65)
  expect(kept).toBeLessThan(0.76)
}) // prettier-ignore

test('a cube stays where friction stops it', async () => {
  expect(Math.abs(await keptSpeed(box(2, 2, 2), 1, 4))).toBeLessThan(0.02)
})

test('an instance is a ball where it turns about its middle', () => {
  const ball = sphere(24)
  expect(meshShape(ball, 0.1)).toMatchObject({ hulls: [], reach: expect.closeTo(0.1, 2) })
  const aside = { ...ball, positions: ball.positions.map((x, k) => (k % 3 === 0 ? x + 0.5 : x)) }
  for (const other of [aside, sphere(5), box()]) expect(meshShape(other, 0.1).hulls).toHaveLength(1)
})
