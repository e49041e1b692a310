/**
 * Measurements as ratios within one run: these machines are noisy, and only a ratio of two things
 * timed in turn says anything. `./tangle bench` prints the median of several rounds.
 */
import { buildTree, closestPoints, readShot, weld, type Mesh, type Shot } from '@tangle/core'
import { demoSlugs } from '@tangle/demo'
import { codecReady, decodeFrame, encodeFrame } from '@tangle/formats'
import { createMachine } from '@tangle/kernels'
import { bake, createNodeMachine } from '@tangle/runtime/node'
import { deflateRawSync } from 'node:zlib'
import { BufferAttribute, BufferGeometry, Vector3 } from 'three'
import { MeshBVH } from 'three-mesh-bvh'
import { compareWith } from './against.ts'
import { compareWithNative } from './kernels.ts'
import { lostFrom } from './thinBox.ts'

const ROUNDS = 5

// ./tangle bench --against DIR [SHOT …]: old and new figures of the demo shots
const [flag, other, ...shots] = process.argv.slice(2)
if (flag === '--against' && other) {
  compareWith(other, shots.length > 0 ? shots : demoSlugs())
  process.exit(0)
}
// ./tangle bench --kernels: against the same loops in C++
if (flag === '--kernels') {
  const slow = compareWithNative(process.cwd())
  console.log(
    slow.length > 0 ? `Dearer than they may be: ${slow.join(', ')}` : 'None is dearer than it may be',
  )
  process.exit(0)
}

/** Median of time(a) ÷ time(b), and the median times in milliseconds. */
function ratio(a: () => void, b: () => void): { ratio: number; a: number; b: number } {
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

function report(name: string, unit: string, found: ReturnType<typeof ratio>): void {
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

const mesh = ball(200)
const ASSET = `sha256:${'0'.repeat(64)}`

function shotOf(
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

function frames(threads: ReturnType<typeof createNodeMachine>, shot: Shot): void {
  for (const _ of bake(threads, shot, new Map([[ASSET, mesh]]), { first: 1, last: 6 }));
}

async function main(): Promise<void> {
  console.log('a ÷ b'.padStart(66) + '        a : b')
  const [one, two] = [createNodeMachine(1), createNodeMachine(2)]
  // the helpers need a moment before they are ready
  await new Promise((resolve) => setTimeout(resolve, 300))
  const turbulent = shotOf([{ id: 't', kind: 'turbulence', octaves: 3 }])
  const plain = shotOf([
    { id: 'g', kind: 'gravity' },
    { id: 'd', kind: 'drag' },
  ])
  report(
    '200,000 particles, turbulence: one thread ÷ two',
    '',
    ratio(
      () => frames(one, turbulent),
      () => frames(two, turbulent),
    ),
  )
  report(
    'the same: turbulence of 3 octaves ÷ gravity and drag',
    '',
    ratio(
      () => frames(one, turbulent),
      () => frames(one, plain),
    ),
  )

  const shrink = { id: 's', kind: 'size', responses: [{ to: 'size', from: 'age', curve: [[0, 1], [1, 0]] }] } // prettier-ignore
  const responsive = shotOf([{ id: 'g', kind: 'gravity' }, { id: 'd', kind: 'drag' }, shrink])
  report(
    'gravity and drag: with size by a response ÷ without',
    '',
    ratio(
      () => frames(one, responsive),
      () => frames(one, plain),
    ),
  )
  const cued = shotOf([], {
    phases: ['Loose', 'Gone'],
    cues: [{ id: 'c', from: 'Loose', to: 'Gone', when: { kind: 'mask', mask: 'noise', above: 2 } }],
  })
  const idle = shotOf([])
  report(
    'nothing acts: a cue by a noise mask ÷ none',
    '',
    ratio(
      () => frames(one, cued),
      () => frames(one, idle),
    ),
  )
  const births = (amount: object) => ({
    births: [{ id: 'b', kind: 'surface', mesh: 'ball', into: 'Loose', amount }],
  })
  const swept = shotOf([], births({ swept: 200_000, mask: 'front' }))
  const steady = shotOf([], births({ rate: 200_000 }))
  report(
    'births swept by a front on 80,000 triangles ÷ at a rate',
    '',
    ratio(
      () => frames(one, swept),
      () => frames(one, steady),
    ),
  )

  const swarm = (burst: number, radius: number, more: object = {}): Shot =>
    shotOf([{ id: 'f', kind: 'flock', separationRadius: radius / 3, radius }], {
      births: [{ id: 'b', kind: 'volume', mesh: 'ball', into: 'Loose', amount: { burst, at: 1 } }],
      ...more,
    })
  const school = swarm(10_000, 0.2)
  report(
    'a flock of 20,000 ÷ one of 10,000, as many neighbours each',
    '',
    ratio(
      () => frames(one, swarm(20_000, 0.2 * Math.cbrt(1 / 2))),
      () => frames(one, school),
    ),
  )
  report(
    'the same: 24 neighbours of 1,000 in reach ÷ of 80',
    '',
    ratio(
      () => frames(one, swarm(10_000, 0.46)),
      () => frames(one, school),
    ),
  )
  const pairing = (burst: number): Shot =>
    shotOf([], {
      births: [{ id: 'b', kind: 'volume', mesh: 'ball', into: 'Loose', amount: { burst, at: 1 } }],
      goals: [{ id: 'g', kind: 'surface', mesh: 'ball', pairing: 'least', scatter: 'random' }],
    })
  report(
    'six frames with least travel: 80,000 pairs ÷ 20,000',
    '',
    ratio(
      () => frames(one, pairing(80_000)),
      () => frames(one, pairing(20_000)),
    ),
  )

  const filled = {
    id: 'b',
    kind: 'volume',
    mesh: 'ball',
    into: 'Loose',
    amount: { burst: 20_000, at: 1 },
    speed: 8,
    cone: 180,
  }
  const inBall = (influences: object[]): Shot => shotOf(influences as never, { births: [filled] })
  const free = inBall([{ id: 'g', kind: 'gravity' }])
  report(
    '20,000 in a vessel of 80,000 triangles ÷ in the open',
    '',
    ratio(
      () =>
        frames(
          one,
          inBall([
            { id: 'g', kind: 'gravity' },
            { id: 'c', kind: 'collide', mesh: 'ball', side: 'inside' },
          ]),
        ),
      () => frames(one, free),
    ),
  )
  const grains = (spacing: number, influences: object[]): Shot =>
    shotOf([{ id: 'g', kind: 'gravity' }, { id: 'f', kind: 'floor', height: -0.6 }, ...influences] as never, {
      particle: { radius: spacing * 0.45, density: 1000 },
      births: [
        {
          id: 'b',
          kind: 'volume',
          mesh: 'ball',
          into: 'Loose',
          fill: 'grid',
          spacing,
          amount: { burst: 'all', at: 1 },
        },
      ],
      quality: { substeps: 4, iterations: 4 },
    })
  const touching = grains(0.06, [{ id: 's', kind: 'selfCollision' }])
  report(
    'grains that touch: eight times as many ÷ once',
    '',
    ratio(
      () => frames(one, grains(0.03, [{ id: 's', kind: 'selfCollision' }])),
      () => frames(one, touching),
    ),
  )
  report(
    'grains that touch and are linked to 18 neighbours ÷ that touch',
    '',
    ratio(
      () =>
        frames(
          one,
          grains(0.06, [
            { id: 's', kind: 'selfCollision' },
            { id: 'l', kind: 'link', to: 'faces' },
          ]),
        ),
      () => frames(one, touching),
    ),
  )

  const single = createMachine()
  const tree = buildTree(single, mesh)
  const queries = Float32Array.from({ length: 60_000 }, (_, i) => Math.cos(i * 12.9898) * 1.5)
  const geometry = new BufferGeometry()
  geometry.setAttribute('position', new BufferAttribute(mesh.positions.slice(), 3))
  geometry.setIndex(new BufferAttribute(mesh.triangles.slice(), 1))
  const bvh = new MeshBVH(geometry)
  const point = new Vector3()
  report(
    '20,000 closest points, 80,000 triangles: ours ÷ three-mesh-bvh',
    '',
    ratio(
      () => void closestPoints(single, tree, queries),
      () => {
        for (let i = 0; i < queries.length; i += 3)
          bvh.closestPointToPoint(point.set(queries[i]!, queries[i + 1]!, queries[i + 2]!))
      },
    ),
  )

  await codecReady()
  const [baked] = bake(one, turbulent, new Map([[ASSET, mesh]]), { first: 3, last: 3 })
  const bytes = encodeFrame(3, baked!.populations)
  const raw = decodeFrame(bytes).populations.flatMap((p) =>
    Object.values(p.columns).flatMap((c) => (c ? [Buffer.from(c.buffer, c.byteOffset, c.byteLength)] : [])),
  )
  const whole = Buffer.concat(raw)
  report(
    'encoding a frame of 200,000: ours ÷ deflate',
    '',
    ratio(
      () => void encodeFrame(3, baked!.populations),
      () => void deflateRawSync(whole, { level: 1 }),
    ),
  )
  report(
    'decoding ÷ encoding it',
    '',
    ratio(
      () => void decodeFrame(bytes),
      () => void encodeFrame(3, baked!.populations),
    ),
  )
  console.log(
    `size of the frame: ${(bytes.length / 200_000).toFixed(1)} bytes a particle; deflate ${(deflateRawSync(whole, { level: 1 }).length / 200_000).toFixed(1)}`,
  )
  one.dispose()
  two.dispose()
  for (const high of [0.4, 0.05]) {
    const { lost, seconds } = lostFrom(high)
    console.log(
      `100,000 at up to 60 m/s in a closed box ${high * 1000} mm high, 300 frames: ${lost} outside, ${Math.round(seconds)} s`,
    )
  }
}

await main()
