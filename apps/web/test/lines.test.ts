/** The charts over frames: which there are, and what their lines read. */
import { completeMesh, completePopulation, type Measures } from '@tangle/core'
import type { Engine } from '../src/engine/engine.ts'
import { linesOf, readLines } from '../src/drawer/lines.ts'

const asset = `sha256:${'ab'.repeat(32)}`
const meshes = [completeMesh({ id: 'roof', name: 'Flat roof', source: { asset } })]
const population = completePopulation({
  id: 'flakes',
  phases: ['Falling', 'Lying'],
  attributes: [{ id: 'heat', name: 'Heat', type: 'number', unit: 'K' }],
} as never)
const measured = (falling: number, deepest?: number, more: object = {}) =>
  ({
    populations: [
      {
        id: 'flakes',
        phases: { Falling: falling, Lying: 1 },
        events: { birth: falling },
        energy: { kinetic: 1, potential: 0, elastic: 0 },
        ...more,
      },
    ],
    meshes: [],
    ...(deepest === undefined ? {} : { covers: [{ id: 'roof', volume: 2, deepest }] }),
  }) as unknown as Measures
const now = (all: Measures) => ({ all, measured: all.populations[0]! })

test('a population has the charts of what acts in it, no others', () => {
  const plain = Object.keys(linesOf(population, meshes, undefined))
  expect(plain).toEqual(
    expect.arrayContaining(['phases', 'speed', 'events', 'own heat', 'overlaps', 'energy']),
  )
  for (const one of ['links', 'stretch', 'contact', 'cover', 'volume']) expect(plain).not.toContain(one)
  const full = linesOf(
    population,
    meshes,
    now(
      measured(1, 0.2, {
        links: { alive: 1, broken: 0, worst: 0 },
        contact: { inside: 0, asleep: 0, worst: 0 },
      }),
    ),
  )
  expect(Object.keys(full)).toEqual(
    expect.arrayContaining(['links', 'stretch', 'contact', 'cover', 'volume']),
  )
  expect(full.cover!.lines.map(([name]) => name)).toEqual(['Flat roof'])
  expect(full.energy!.lines.map(([name]) => name)).toContain('elastic')
  expect(full['own heat']!.title).toBe('Heat (K)')
})

test('lines read every computed frame, and leave gaps where a take is older than what they show', () => {
  const frames = new Map([[1, measured(9)], [2, measured(8, 0.1)], [4, measured(6, 0.3)]]) // prettier-ignore
  const engine = { frames: { first: 1, last: 4, rate: 24 }, measuresAt: (frame: number) => frames.get(frame) }
  const charts = linesOf(population, meshes, now(measured(9, 0.1)))
  const read = (chart: string) => readLines(engine as unknown as Engine, 'flakes', charts[chart]!.lines)
  expect(read('phases')).toEqual([
    { name: 'Falling', data: [{ x: 1, y: 9 }, { x: 2, y: 8 }, { x: 4, y: 6 }] }, // prettier-ignore
    { name: 'Lying', data: [{ x: 1, y: 1 }, { x: 2, y: 1 }, { x: 4, y: 1 }] }, // prettier-ignore
  ])
  expect(read('cover')).toEqual([
    { name: 'Flat roof', data: [{ x: 1, y: null }, { x: 2, y: 0.1 }, { x: 4, y: 0.3 }] }, // prettier-ignore
  ])
  expect(read('volume')[0]!.data.at(-1)).toEqual({ x: 4, y: 2 })
  expect(read('events')[0]).toEqual({ name: 'born', data: [{ x: 1, y: 9 }, { x: 2, y: 8 }, { x: 4, y: 6 }] }) // prettier-ignore
})

test('who flies home has charts of it; rigid bodies have the energy of their spin', () => {
  const homing = {
    ...population,
    influences: [{ id: 'h', kind: 'dock', weights: {} }],
  } as unknown as Population
  const pieces = { crumbs: 0, stuck: 0, homing: 7, docked: 3, farthest: 0.4, inside: null }
  const at = measured(9, 0.1, { pieces, energy: { kinetic: 5, potential: 2, elastic: 0, spin: 1.5 } })
  const charts = linesOf(homing, meshes, now(at))
  const values = (chart: string) =>
    charts[chart]!.lines.map(([name, read]) => [name, read(now(at).measured, at)])
  expect(values('home')).toEqual([['docked', 3], ['on the way', 4]]) // prettier-ignore
  expect(values('wide')).toEqual([['farthest', 0.4]])
  expect(values('energy')).toContainEqual(['spin', 1.5])
  expect(Object.keys(linesOf(population, meshes, now(measured(1))))).not.toContain('home')
})

test('a liquid has its level, its volume and how dense it is', () => {
  const liquid = { volume: 0.2164, level: 0.4321, compression: 0.001, high: 0.0042 }
  const all = measured(3, undefined, { liquid })
  const charts = linesOf(population, meshes, now(all))
  const shown = (chart: string) => charts[chart]!.lines.map(([name, read]) => [name, charts[chart]!.format(read(all.populations[0]!, all)!)]) // prettier-ignore
  expect(shown('level')).toEqual([['surface', '0.4321']])
  expect(shown('liquid')).toEqual([['volume', '0.2164']])
  expect(shown('compressed')).toEqual([['mean', '0.1'], ['99 %', '0.42']]) // prettier-ignore
  expect(linesOf(population, meshes, now(measured(3)))).not.toHaveProperty('level')
})
