/** A row of dominoes: who falls strikes the next. */
import type { Mesh, Vector } from '../src/index.ts'
import { ASSET } from './help.ts'
import { blocks, body, bondedShot, G, gravity } from './bondHelp.ts'
import { simulate } from './rigidHelp.ts'

const COUNT = 26

/** Dominoes of a thickness, height and width, a gap apart along x, on the ground. */
function row([thick, high, wide]: Vector, gap: number): Mesh {
  const mesh = blocks([COUNT, 1, 1], [COUNT * thick, high, wide])
  const hulls = mesh.pieces!.hulls
  const apart = (values: Float32Array): Float32Array =>
    values.map((x, k) => {
      const piece = Math.floor((k * COUNT) / values.length)
      return x + (k % 3 === 0 ? piece * gap : k % 3 === 1 ? high / 2 : 0)
    })
  return {
    ...mesh,
    positions: apart(mesh.positions),
    pieces: { ...mesh.pieces!, hulls: { ...hulls, points: apart(hulls.points) } },
  }
}

/** Speed of the wave along the row, as a share of √(g·h). */
async function speedOf(size: Vector, gap: number, substeps: number): Promise<number> {
  const [thick, high] = size
  const rate = 60 / Math.sqrt(high / 0.05)
  const floor = { id: 'f', kind: 'floor', weights: { Free: 1 }, friction: 0.9, sliding: 0.9, bounce: 0 }
  const shot = bondedShot([gravity({ Free: 1 }), body({ friction: 0.2 }), floor], { frames: { first: 1, last: 400, rate }, quality: { substeps, iterations: 6 } }) // prettier-ignore
  const simulation = await simulate(shot, new Map([[ASSET, row(size, gap)]]))
  for (let n = 0; n < 6; n++) simulation.advance()
  const { velocity, angularVelocity, orientation } = simulation.populations()[0]!.columns as Record<string, Float32Array> // prettier-ignore
  const push = 1.75 * Math.sqrt(G / high)
  angularVelocity!.set([0, 0, -push])
  velocity!.set([(push * high) / 2, 0, 0])
  const leans = new Map<number, number>()
  for (let frame = 1; frame < 240 && leans.size < COUNT; frame++) {
    simulation.advance()
    for (let i = 0; i < COUNT; i++)
      if (!leans.has(i) && Math.abs(orientation![i * 4 + 2]!) > 0.06) leans.set(i, frame)
  }
  expect(leans.size).toBe(COUNT)
  const [from, to] = [10, 22]
  const speed = ((to - from) * (gap + thick) * rate) / (leans.get(to)! - leans.get(from)!)
  return speed / Math.sqrt(G * high)
}

test('fall one after another at a speed that goes with √(g·h), the faster the nearer they stand', async () => {
  // the law: McLachlan, Beaupre, Cox, Gore, "Falling dominoes", The Physics Teacher 21 (1983); measured speeds are between about
  // 1 and 1.6 √(g·h) for common dominoes (from memory: Stronge, Shu, "The domino effect", Proc. R. Soc. A 418, 1988)
  const common: Vector = [0.008, 0.05, 0.024]
  const speeds: number[] = []
  for (const gap of [0.012, 0.02, 0.03]) speeds.push(await speedOf(common, gap, 8))
  for (const speed of speeds) {
    expect(speed).toBeGreaterThan(1)
    expect(speed).toBeLessThan(1.6)
  }
  expect(speeds[0]).toBeGreaterThan(speeds[1]!)
  expect(speeds[1]).toBeGreaterThan(speeds[2]!)
  const tenfold = await speedOf(common.map((x) => 10 * x) as Vector, 0.2, 8)
  const finer = await speedOf(common, 0.02, 16)
  for (const other of [tenfold, finer]) expect(Math.abs(other / speeds[1]! - 1)).toBeLessThan(0.12)
}, 60_000)
