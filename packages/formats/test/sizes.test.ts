/** What the interface says of the size of takes, against what the codec makes of frames that were computed. */
import {
  keptAttributes,
  createSimulation,
  KEEP_PRESETS,
  readShot,
  storedBytes,
  weld,
  type Shot,
} from '@tangle/core'
import { createMachine } from '@tangle/kernels'
import { codecReady, encodeFrame } from '../src/index.ts'

const ASSET = `sha256:${'0'.repeat(64)}`
const quad = weld({
  positions: new Float32Array([0, 0, 0, 3, 0, 0, 3, 2, 1, 0, 2, 1]),
  triangles: new Uint32Array([0, 1, 2, 0, 2, 3]),
})
const shotOf = (more: object): Shot =>
  readShot({
    format: 'tangle-shot',
    version: 1,
    name: 'Sizes',
    frames: { first: 1, last: 40, rate: 24 },
    meshes: [{ id: 'quad', source: { asset: ASSET } }],
    populations: [
      {
        id: 'dust',
        phases: ['Loose'],
        particle: { radius: { mean: 0.01, spread: 0.4 }, lifespan: { mean: 60, spread: 20 } },
        births: [{ id: 'b', kind: 'surface', mesh: 'quad', into: 'Loose', amount: { rate: 8000 } }],
        influences: [
          { id: 'wind', kind: 'turbulence', weights: { Loose: 1 } },
          { id: 'fall', kind: 'gravity', weights: { Loose: 1 } },
        ],
        ...more,
      },
    ],
  }).shot!

test.each([
  ['places only', {}],
  ['for motion blur', {}],
  ['everything', {}],
  [
    'everything',
    { attributes: [{ id: 'heat', name: 'Heat', type: 'number', birth: { mean: 5, spread: 1 } }] },
  ],
] as const)(
  '%s: the bytes a particle that are told are within a fifth of those that it takes',
  async (preset, more) => {
    await codecReady()
    const shot = shotOf({ ...more, keep: KEEP_PRESETS[preset] })
    const simulation = createSimulation(createMachine(), shot, new Map([[ASSET, quad]]))
    for (let frame = 1; frame < 30; frame++) simulation.advance()
    const frames = simulation.populations()
    const count = frames[0]!.count
    expect(count).toBeGreaterThan(5000)
    const kept = new Set<string>(keptAttributes(shot.populations[0]!))
    const stored = frames.map((one) => ({
      ...one,
      columns: Object.fromEntries(Object.entries(one.columns).filter(([name]) => kept.has(name))),
    }))
    const taken = encodeFrame(30, stored).length / count
    expect(Math.abs(storedBytes(shot.populations[0]!) / taken - 1)).toBeLessThan(0.2)
  },
)
