/**
 * Measurements as ratios within one run: these machines are noisy, and only a ratio of two things
 * timed in turn says anything. `./tangle bench` prints the median of several rounds.
 */
import { buildTree, closestPoints, type Shot } from '@tangle/core'
import { demoSlugs } from '@tangle/demo'
import { codecReady, decodeFrame, encodeFrame } from '@tangle/formats'
import { createMachine } from '@tangle/kernels'
import { bake, createNodeMachine } from '@tangle/runtime/node'
import { existsSync, readFileSync, writeFileSync } from 'node:fs'
import { spawnSync } from 'node:child_process'
import { deflateRawSync } from 'node:zlib'
import { BufferAttribute, BufferGeometry, Vector3 } from 'three'
import { MeshBVH } from 'three-mesh-bvh'
import { compareWith } from './against.ts'
import { compareWithNative, kernelRatios } from './kernels.ts'
import { ASSET, frames, measured, mesh, ratio, report, reportShots, shotOf } from './measure.ts'
import { compareTables, type Table } from './table.ts'
import { lostFrom } from './thinBox.ts'

// ./tangle bench --check: what has become slower than bench/table.json says; --write: makes that anew
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
    'higher',
  )
  report(
    'the same: turbulence of 3 octaves ÷ gravity and drag',
    '',
    ratio(
      () => frames(one, turbulent),
      () => frames(one, plain),
    ),
  )

  report(
    'turbulence: all particles ÷ a slice of ten',
    '',
    ratio(
      () => frames(one, turbulent),
      () => frames(one, turbulent, { index: 3, of: 10 }),
    ),
    'higher',
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
  const encoded = (): Uint8Array => encodeFrame({ ...baked!, frame: 3 }, { rate: 24, before: null }).bytes
  const bytes = encoded()
  const raw = decodeFrame(bytes).populations.flatMap((p) =>
    Object.values(p.columns).flatMap((c) => (c ? [Buffer.from(c.buffer, c.byteOffset, c.byteLength)] : [])),
  )
  const whole = Buffer.concat(raw)
  report(
    'encoding a frame of 200,000: ours ÷ deflate',
    '',
    ratio(
      () => void encoded(),
      () => void deflateRawSync(whole, { level: 1 }),
    ),
  )
  report(
    'decoding ÷ encoding it',
    '',
    ratio(
      () => void decodeFrame(bytes),
      () => void encoded(),
    ),
  )
  console.log(
    `size of the frame: ${(bytes.length / 200_000).toFixed(1)} bytes a particle; deflate ${(deflateRawSync(whole, { level: 1 }).length / 200_000).toFixed(1)}`,
  )
  one.dispose()
  two.dispose()
  // minutes, and no ratio
  for (const high of flag === undefined ? [0.4, 0.05] : []) {
    const { lost, seconds } = lostFrom(high)
    console.log(
      `100,000 at up to 60 m/s in a closed box ${high * 1000} mm high, 300 frames: ${lost} outside, ${Math.round(seconds)} s`,
    )
  }
}

const TABLE = 'bench/table.json'
await main()
if (flag === '--check' || flag === '--write') {
  reportShots()
  const hasCompiler = spawnSync('g++', ['--version']).status === 0
  if (hasCompiler)
    for (const [name, ratio] of kernelRatios(process.cwd()))
      measured[`${name} ÷ C++`] = { ratio: Math.round(ratio * 1000) / 1000, better: 'lower' }
  else console.log('Without g++ the kernels are not set against C++')
}
if (flag === '--write') writeFileSync(TABLE, `${JSON.stringify(measured, null, 2)}\n`)
if (flag === '--check') {
  if (!existsSync(TABLE)) throw new Error(`${TABLE} is missing: ./tangle bench --write makes it`)
  const { lines, slower } = compareTables(JSON.parse(readFileSync(TABLE, 'utf8')) as Table, measured)
  console.log(
    ['', ...lines, '', slower.length > 0 ? `Slower: ${slower.join(', ')}` : 'Nothing is slower'].join('\n'),
  )
  process.exitCode = slower.length > 0 ? 1 : 0
}
