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
import { codecReady, encodeFrame, type Decoded } from '../src/index.ts'

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
  ['places only', 'compact', {}],
  ['places only', 'exact', {}],
  ['for motion blur', 'compact', {}],
  ['everything', 'compact', {}],
  ['everything', 'exact', {}],
  [
    'everything',
    'compact',
    { attributes: [{ id: 'heat', name: 'Heat', type: 'number', birth: { mean: 5, spread: 1 } }] },
  ],
] as const)(
  '%s, %s: the bytes a particle that are told are within a fifth of those that it takes',
  async (preset, precision, more) => {
    await codecReady()
    const shot = shotOf({ ...more, precision, keep: KEEP_PRESETS[preset] })
    const simulation = createSimulation(createMachine(), shot, new Map([[ASSET, quad]]))
    const kept = new Set<string>(keptAttributes(shot.populations[0]!))
    let before: Decoded | null = null
    let [bytes, particles] = [0, 0]
    for (let frame = 1; frame <= 36; frame++) {
      if (frame > 1) simulation.advance()
      const populations = simulation.populations().map((one) => ({
        ...one,
        columns: Object.fromEntries(Object.entries(one.columns).filter(([name]) => kept.has(name))),
      }))
      const encoded = encodeFrame(
        { frame, populations, meshes: [] },
        { rate: 24, before, precision: () => precision },
      )
      before = encoded.decoded
      if (frame <= 24) continue
      bytes += encoded.bytes.length
      particles += populations[0]!.count
    }
    expect(particles).toBeGreaterThan(60_000)
    const taken = bytes / particles
    expect(Math.abs(storedBytes(shot.populations[0]!) / taken - 1)).toBeLessThan(0.2)
  },
)
