/** What is measured with: ratios of two things timed in turn, and scenes to time. */
import { readShot, weld, type Mesh, type Shot, type Slice } from '@tangle/core'
import { demoSlugs } from '@tangle/demo'
import { bake, createNodeMachine } from '@tangle/runtime/node'
import { costOfShot } from './against.ts'
import { type Row, type Table } from './table.ts'

const ROUNDS = 5

/** Median of time(a) ÷ time(b), and the median times in milliseconds. */
export function ratio(a: () => void, b: () => void): { ratio: number; a: number; b: number } {
  const time = (work: () => void): number => {
    const from = performance.now()
    work()
    return performance.now() - from
  }
  a()
  b()
  const pairs = Array.from({ length: ROUNDS }, () => [time(a), time(b)] as const)
  const median = (values: number[]): number => values.sort((x, y) => x - y)[values.length >> 1]!
  return {
    ratio: median(pairs.map(([x, y]) => x / y)),
    a: median(pairs.map(([x]) => x)),
    b: median(pairs.map(([, y]) => y)),
  }
}

/** What has been measured, by its name. */
export const measured: Table = {}

export function report(
  name: string,
  unit: string,
  found: ReturnType<typeof ratio>,
  better: Row['better'] = 'lower',
): void {
  measured[name] = { ratio: Math.round(found.ratio * 1000) / 1000, better }
  console.log(
    `${name.padEnd(58)} ${found.ratio.toFixed(2).padStart(7)}   ${found.a.toFixed(1).padStart(8)} : ${found.b.toFixed(1)} ms ${unit}`,
  )
}

/** A ball of `rings`² quads. */
function ball(rings: number): Mesh {
  const positions: number[] = []
  const triangles: number[] = []
  for (let i = 0; i <= rings; i++) {
    for (let k = 0; k < rings; k++) {
      const [a, b] = [(Math.PI * i) / rings, (2 * Math.PI * k) / rings]
      positions.push(Math.sin(a) * Math.sin(b), Math.cos(a), Math.sin(a) * Math.cos(b))
      const [p, q] = [i * rings + k, i * rings + ((k + 1) % rings)]
      if (i < rings) triangles.push(p, p + rings, q + rings, p, q + rings, q)
    }
  }
  return weld({ positions: new Float32Array(positions), triangles: new Uint32Array(triangles) })
}

export const mesh = ball(200)
export const ASSET = `sha256:${'0'.repeat(64)}`

export function shotOf(
  influences: object[],
  { quality = {}, ...more }: { quality?: object; [key: string]: unknown } = {},
  burst = 200_000,
): Shot {
  const read = readShot({
    format: 'tangle-shot',
    version: 1,
    name: 'Bench',
    frames: { first: 1, last: 6, rate: 24 },
    quality,
    meshes: [{ id: 'ball', source: { asset: ASSET } }],
    populations: [
      {
        id: 'p',
        births: [{ id: 'b', kind: 'surface', mesh: 'ball', into: 'Loose', amount: { burst, at: 1 } }],
        influences,
        ...more,
      },
    ],
    masks: [
      { id: 'noise', kind: 'noise', octaves: 3, change: 0.5 },
      { id: 'front', kind: 'spread', mesh: 'ball', from: { ball: [0, 1, 0], radius: 0.1 }, speed: 4 },
    ],
  })
  if (read.problems) throw new Error(JSON.stringify(read.problems))
  return read.shot
}

export function frames(
  threads: ReturnType<typeof createNodeMachine>,
  shot: Shot,
  slice: Slice | null = null,
): void {
  for (const _ of bake(threads, shot, new Map([[ASSET, mesh]]), { first: 1, last: 6, slice }));
}

/** What each demo shot costs, as a multiple of curl noise for 200,000 over six frames: the same machine at the same moment. */
export function reportShots(): void {
  const machine = createNodeMachine(1)
  const yardstick = shotOf([{ id: 't', kind: 'turbulence', octaves: 3 }])
  for (const slug of demoSlugs()) {
    const pairs = Array.from({ length: 3 }, () => {
      const from = performance.now()
      frames(machine, yardstick)
      return { yard: performance.now() - from, shot: costOfShot(process.cwd(), slug) }
    })
    const middle = (of: (pair: (typeof pairs)[0]) => number): number =>
      pairs.map(of).sort((a, b) => a - b)[1]!
    report(`${slug} ÷ turbulence`, '', {
      ratio: middle(({ shot, yard }) => shot / yard),
      a: middle(({ shot }) => shot),
      b: middle(({ yard }) => yard),
    })
  }
  machine.dispose()
}
