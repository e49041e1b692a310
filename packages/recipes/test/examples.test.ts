/** Every picture beside a help shows what it is about: without that, particles do something else. */
import { createSimulation, CUES, INFLUENCES, MASKS, readyFor, type Shot } from '@tangle/core'
import { createMachine } from '@tangle/kernels'
import { exampleOf, type Example } from '../src/index.ts'

/** What is drawn of an example in its frames: places, sizes and colours. */
function seenIn({ shot, meshes }: Example): number[] {
  const simulation = createSimulation(createMachine(), shot, meshes)
  const seen: number[] = []
  do {
    const { columns, count } = simulation.populations()[0]!
    for (const name of [
      'position',
      'radius',
      'size',
      'opacity',
      'colour',
      'orientation',
      'temperature',
      'own',
      'phase',
    ])
      if ((columns as Record<string, Float32Array>)[name] && simulation.frame % 6 === 0)
        seen.push(...(columns as Record<string, Float32Array>)[name]!)
    seen.push(count)
  } while (simulation.frame < shot.frames.last && simulation.advance())
  simulation.dispose()
  return seen
}
const without = (example: Example, change: (shot: Shot) => void): Example => {
  const shot = structuredClone(example.shot)
  change(shot)
  return { ...example, shot }
}
/** Kinds that are told in words only, as they need a solver that is too much for a small picture. */
const UNDRAWN = {
  influence: ['bonds', 'dock', 'float'],
  mask: ['seen'],
  cue: [] as string[],
}

test.each(INFLUENCES.map(({ kind }) => kind).filter((kind) => !UNDRAWN.influence.includes(kind)))(
  'the influence %s',
  async (kind) => {
    const example = exampleOf('influence', kind)!
    await readyFor(example.shot)
    const seen = seenIn(example)
    expect(seen.every(Number.isFinite)).toBe(true)
    expect(Math.max(...seen)).toBeGreaterThan(15)
    const plain = seenIn(
      without(example, ({ populations }) => (populations[0]!.influences.at(-1)!.muted = true)),
    )
    expect(plain).not.toEqual(seen)
  },
)

test.each(MASKS.map(({ kind }) => kind).filter((kind) => !UNDRAWN.mask.includes(kind)))(
  'the mask %s',
  (kind) => {
    const seen = seenIn(exampleOf('mask', kind)!)
    const sizes = new Set(seen.map((x) => x.toFixed(3)))
    expect(seen.every(Number.isFinite)).toBe(true)
    expect(sizes.size).toBeGreaterThan(40)
  },
)

test.each(CUES.map(({ kind }) => kind))('the cue %s sends some on, and not all at once', (kind) => {
  const { shot, meshes } = exampleOf('cue', kind)!
  const simulation = createSimulation(createMachine(), shot, meshes)
  const gone: number[] = []
  while (simulation.frame < shot.frames.last && simulation.advance())
    gone.push(simulation.measures().populations[0]!.phases.Two ?? 0)
  simulation.dispose()
  expect(Math.max(...gone)).toBeGreaterThan(20)
  expect(new Set(gone).size).toBeGreaterThan(3)
})

test('what has no picture has none, and an unknown kind neither', () => {
  for (const sort of ['influence', 'mask', 'cue'] as const) {
    for (const kind of UNDRAWN[sort]) expect(exampleOf(sort, kind)).toBeNull()
    expect(exampleOf(sort, 'no-such-kind')).toBeNull()
  }
})

test('every kind says what goes wrong with it', () => {
  for (const { label, pitfall } of [...INFLUENCES, ...MASKS, ...CUES]) {
    expect([label, pitfall.length > 30]).toEqual([label, true])
    expect(pitfall).toMatch(/[.]$/)
  }
})
