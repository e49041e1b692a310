/** The charts over frames: which there are, and what their lines read. */
import {
  completeInfluence,
  completeMesh,
  completePopulation,
  type Influence,
  type Measures,
} from '@tangle/core'
import type { Engine } from '../src/engine/engine.ts'
import { linesOf, readLines } from '../src/drawer/lines.ts'

const asset = `sha256:${'ab'.repeat(32)}`
const meshes = [completeMesh({ id: 'roof', name: 'Flat roof', source: { asset } })]
const population = (...kinds: Partial<Influence>[]) =>
  completePopulation({
    id: 'flakes',
    phases: ['Falling', 'Lying'],
    influences: kinds.map((one, n) =>
      completeInfluence({ id: `i${n}`, kind: 'gravity', ...one }, ['Falling']),
    ),
  })
const measured = (falling: number, deepest?: number) =>
  ({
    populations: [{ id: 'flakes', phases: { Falling: falling, Lying: 1 } }],
    meshes: [],
    ...(deepest === undefined ? {} : { covers: [{ id: 'roof', volume: 2, deepest }] }),
  }) as unknown as Measures

test('a population has the charts of what acts in it, no others', () => {
  const plain = Object.keys(linesOf(population(), meshes))
  expect(plain).toEqual(expect.arrayContaining(['phases', 'speed', 'overlaps', 'energy']))
  for (const one of ['links', 'stretch', 'contact', 'cover', 'volume']) expect(plain).not.toContain(one)
  const full = linesOf(
    population({ kind: 'link' }, { kind: 'floor' }, { kind: 'cover', mesh: 'roof' }),
    meshes,
  )
  expect(Object.keys(full)).toEqual(
    expect.arrayContaining(['links', 'stretch', 'contact', 'cover', 'volume']),
  )
  expect(full.cover!.lines.map(([name]) => name)).toEqual(['Flat roof'])
  expect(linesOf(population({ kind: 'cover', mesh: 'roof', muted: true }), meshes).cover).toBeUndefined()
})

test('lines read every computed frame, and leave gaps where a take is older than what they show', () => {
  const frames = new Map([[1, measured(9)], [2, measured(8, 0.1)], [4, measured(6, 0.3)]]) // prettier-ignore
  const engine = { frames: { first: 1, last: 4, rate: 24 }, measuresAt: (frame: number) => frames.get(frame) }
  const charts = linesOf(population({ kind: 'cover', mesh: 'roof' }), meshes)
  const read = (chart: string) => readLines(engine as unknown as Engine, 'flakes', charts[chart]!.lines)
  expect(read('phases')).toEqual([
    { name: 'Falling', data: [{ x: 1, y: 9 }, { x: 2, y: 8 }, { x: 4, y: 6 }] }, // prettier-ignore
    { name: 'Lying', data: [{ x: 1, y: 1 }, { x: 2, y: 1 }, { x: 4, y: 1 }] }, // prettier-ignore
  ])
  expect(read('cover')).toEqual([
    { name: 'Flat roof', data: [{ x: 1, y: null }, { x: 2, y: 0.1 }, { x: 4, y: 0.3 }] }, // prettier-ignore
  ])
  expect(read('volume')[0]!.data.at(-1)).toEqual({ x: 4, y: 2 })
})
