/** Recipes on the command line: a shot that bakes as it stands, and sentences about what is wrong. */
import { readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { folder, prism, tangle, write } from './run.ts'

interface Written {
  name: string
  meshes: { source: { file?: string; text?: { text: string } }; place: { scale: number[] } }[]
  populations: { particle: { radius: number | { mean: number } } }[]
  lifted: { label: string }[]
}
const read = async (path: string): Promise<Written> => JSON.parse(await readFile(path, 'utf8')) as Written
const radiusOf = ({ populations }: Written): number => {
  const { radius } = populations[0]!.particle
  return typeof radius === 'number' ? radius : radius.mean
}

test('a recipe for a mesh in a file is written, sized to it, names it as seen from the shot, and bakes', async () => {
  const mesh = await write('prism.obj', prism)
  const [small, large] = [join(folder, 'small.json'), join(folder, 'large.json')]
  const make = async (out: string, scale: string): Promise<void> => {
    const { code, err } = await tangle(
      'recipe',
      'dust',
      '--mesh',
      `body=${mesh}`,
      '--scale',
      scale,
      '--out',
      out,
    )
    expect([code, err]).toEqual([0, ''])
  }
  await make(small, '0.01')
  await make(large, '10')
  const [a, b] = [await read(small), await read(large)]
  expect(a.meshes[0]!.source.file).toBe('prism.obj')
  expect(a.meshes[0]!.place.scale).toEqual([0.01, 0.01, 0.01])
  expect(radiusOf(b) / radiusOf(a)).toBeCloseTo(1000, -2)
  expect(a.lifted.length).toBeGreaterThanOrEqual(3)
  const baked = await tangle('bake', small, '--frames', '1-12', '--share', '0.02', '--json')
  expect([baked.code, baked.err]).toEqual([0, ''])
  expect(baked.out.trim().split('\n')).toHaveLength(13) // and one for the whole
})

test('lettering fills a slot, and without a file the shot is printed', async () => {
  const printed = await tangle('recipe', 'dust', '--mesh', 'body=text:QUAY')
  expect(printed.code).toBe(0)
  const shot = JSON.parse(printed.out) as Written
  expect(shot.meshes[0]!.source.text!.text).toBe('QUAY')
})

test.each<[string, string[], RegExp]>([
  ['a recipe that there is not', ['recipe', 'magic'], /no recipe "magic": the recipes are dust/],
  ['a slot left empty', ['recipe', 'dust'], /takes body .*: give each as --mesh body=FILE/],
  ['a slot that it has not', ['recipe', 'dust', '--mesh', 'hat=text:A'], /takes no mesh "hat"/],
  [
    'a file that is not there',
    ['recipe', 'dust', '--mesh', 'body=none.obj'],
    /none\.obj: can't be read \(ENOENT\)/,
  ],
  [
    'no size',
    ['recipe', 'dust', '--mesh', 'body=text:A', '--scale', '0'],
    /--scale must be a number above 0/,
  ],
  ['a recipe that takes two', ['recipe', 'morph', '--mesh', 'body=text:A'], /--mesh target=FILE/],
])('%s is told', async (_, call, said) => {
  const { code, err } = await tangle(...call)
  expect(code).toBeGreaterThan(0)
  expect(err).toMatch(said)
})

test('what is no mesh is refused with where', async () => {
  const torn = await write('torn.obj', 'v 0 0 zero\nf 1 2 3\n')
  const { code, err } = await tangle('recipe', 'dust', '--mesh', `body=${torn}`)
  expect(code).toBeGreaterThan(0)
  expect(err).toMatch(/torn\.obj: .*(line|row) 1/i)
})

test('describe prints the JSON Schema of a shot', async () => {
  const { code, out } = await tangle('describe', '--schema')
  expect(code).toBe(0)
  expect(JSON.parse(out)).toMatchObject({
    title: 'A shot of Tangle',
    required: ['format', 'version', 'name', 'frames'],
  })
})
