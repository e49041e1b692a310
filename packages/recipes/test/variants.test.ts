/** What a value does is shown by examples in which nothing else differs. */
import { createSimulation, CUES, INFLUENCES, MASKS } from '@tangle/core'
import { createMachine } from '@tangle/kernels'
import { exampleOf, hasVariants, variantsOf, type Example, type Told, type Variant } from '../src/index.ts'

const endOf = ({ shot, meshes }: Example): number[] => {
  const simulation = createSimulation(createMachine(), shot, meshes)
  while (simulation.frame < 30) simulation.advance()
  const { columns } = simulation.populations()[0]!
  const seen = ['position', 'radius', 'size', 'phase'].flatMap((name) => [
    ...((columns as Record<string, Float32Array>)[name] ?? []),
  ])
  simulation.dispose()
  return seen
}

const ALL = [
  ...INFLUENCES.map(({ kind, parameters }) => ({ sort: 'influence' as const, kind, parameters })),
  ...MASKS.map(({ kind, parameters }) => ({ sort: 'mask' as const, kind, parameters })),
  ...CUES.map(({ kind, parameters }) => ({ sort: 'cue' as const, kind, parameters })),
]

const shown = (sort: Told['sort'], kind: string, parameter: string): Variant[] =>
  variantsOf(exampleOf(sort, kind)!, { sort, kind, parameter })

test('of each kind with a picture most numbers and choices have variants, which differ in nothing else', () => {
  let [numbers, told] = [0, 0]
  for (const { sort, kind, parameters } of ALL) {
    const example = exampleOf(sort, kind)
    for (const [name, parameter] of Object.entries(parameters)) {
      const variants = example ? variantsOf(example, { sort, kind, parameter: name }) : []
      if (example && (parameter.type === 'number' || parameter.type === 'choice')) {
        numbers++
        if (variants.length > 1) told++
      }
      expect(new Set(variants.map(({ label }) => label)).size).toBe(variants.length)
      for (const variant of variants) {
        const rest = (shot: object): string => JSON.stringify(shot, (key, value: unknown) => (key === name ? undefined : value)) // prettier-ignore
        // a choice may bring defaults with it
        if (parameter.type === 'number') expect(rest(variant.example.shot)).toBe(rest(example!.shot))
      }
    }
  }
  expect(told / numbers).toBeGreaterThan(0.6)
})

test.each([
  ['influence', 'wind', 'speed'],
  ['influence', 'turbulence', 'scale'],
  ['influence', 'floor', 'bounce'],
  ['influence', 'flock', 'alignment'],
  ['influence', 'attract', 'strength'],
  ['mask', 'noise', 'scale'],
  ['cue', 'frame', 'frame'],
] as const)('%s %s: with less and more %s it ends otherwise', (sort, kind, name) => {
  const variants = shown(sort, kind, name)
  expect(variants).toHaveLength(2)
  const [less, more] = variants.map(({ example }) => endOf(example))
  expect(less!.every(Number.isFinite)).toBe(true)
  expect(less).not.toEqual(more)
})

test('a number is a third and three times what the example has, within what is allowed, with its unit', () => {
  const { speed } = exampleOf('influence', 'wind')!.shot.populations[0]!.influences.at(-1)!
  expect(speed).toBe(1)
  const labels = (kind: string, name: string) => shown('influence', kind, name).map(({ label }) => label)
  expect(labels('wind', 'speed')).toEqual(['0.33 m/s', '3 m/s'])
  expect(labels('floor', 'bounce')).toEqual(['0.17 ×', '1 ×'])
  expect(labels('wind', 'direction')).toEqual([])
  const example = exampleOf('influence', 'wind')!
  expect(hasVariants(example, { sort: 'influence', kind: 'wind', parameter: 'direction' })).toBe(false)
  expect(hasVariants(example, { sort: 'influence', kind: 'wind', parameter: 'speed' })).toBe(true)
})
