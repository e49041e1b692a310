import {
  checkFrame,
  checkShot,
  completeMesh,
  createSimulation,
  derive,
  derivedFrom,
  emptyShot,
  liftedValues,
  meshFacts,
  readShot,
  readyFor,
  sourceKey,
  type Mesh,
  type Shot,
  type ShotMesh,
} from '@tangle/core'
import { createMachine } from '@tangle/kernels'
import { asset } from '../../core/test/help.ts'
import { manifold } from '../../core/test/rigidHelp.ts'
import { firstOf } from '../../core/test/wide.ts'
import { withRecipe, type Recipe } from '../src/index.ts'
import { from, MIDDLE, scaled, TRIALS, type Seen } from './trials.ts'

const SIZES = firstOf(2, [0.05, 50, 1])
/** What falls takes long: first the sizes that nobody tuned by. */
const FALLING = [[0.05, 50, 1], [50, 0.05, 1]] // prettier-ignore

const AT_ORIGIN: ShotMesh['place'] = { position: [0, 0, 0], rotation: [0, 0, 0], scale: [1, 1, 1] }

/** An empty shot with the meshes of a recipe, and the recipe written into it. */
export function written(
  recipe: Recipe,
  meshes: Record<string, Mesh>,
  size: number,
  start = emptyShot('Empty'),
  place: Partial<ShotMesh['place']> = {},
) {
  const given = Object.entries(meshes).map(([slot, mesh], n) => ({ slot, id: slot, mesh: scaled(mesh, size), asset: asset(n) })) // prettier-ignore
  const shot: Shot = {
    ...start,
    meshes: [...start.meshes, ...given.filter(({ id }) => !start.meshes.some((one) => one.id === id)).map(({ id, asset }) => completeMesh({ id, source: { asset }, place: { ...AT_ORIGIN, ...place } }))], // prettier-ignore
  }
  const read = withRecipe(recipe, shot, Object.fromEntries(given.map(({ slot, id, mesh }) => [slot, { id, mesh }]))) // prettier-ignore
  if (read.problems) throw new Error(JSON.stringify(read.problems))
  return { shot: read.shot, given }
}

/** With values of "Try first" that many times as large. */
function lighterBy(shot: Shot, shares: Record<string, number>): Shot {
  const copy = structuredClone(shot)
  for (const { label, path, value, whole } of liftedValues(shot)) {
    const share = shares[label]
    if (share === undefined) continue
    const holder = path.slice(0, -1).reduce<unknown>((at, key) => (at as never)[key], copy)
    ;(holder as Record<string, number>)[path.at(-1)!] = whole ? Math.round(value * share) : value * share
  }
  return copy
}

/** How far places are from the middle of the body, in its sizes: what lies half way. */
const halfWay = (places: number[][]): number =>
  places.map((p) => from(p, MIDDLE)).toSorted((a, b) => a - b)[places.length >> 1] ?? 0

/** Computes recipes for things of 5 cm, 1 m and 50 m: sound, silent, the same at each size, and what they say. */
export function tryOut(recipes: Recipe[]): void {
  describe.each(recipes.map((recipe, n) => [recipe.label, recipe, n] as const))('%s', (_, recipe, n) => {
    const trial = TRIALS[recipe.id]!
    const sizes = trial.alike ? SIZES : firstOf(1, FALLING[n % 2]!)
    /** Where half of each population is at each moment, by size. */
    const ways: number[][] = []

    test.each(sizes)('of %d m', async (size) => {
      const { shot: whole, given } = written(recipe, trial.meshes, size)
      expect(liftedValues(whole).length).toBe(whole.lifted.length)
      expect(whole.lifted.length).toBeGreaterThanOrEqual(3)
      expect(readShot(JSON.parse(JSON.stringify(whole))).problems).toBeUndefined()
      const shot = lighterBy(whole, trial.lighter ?? {})
      const meshes = new Map(given.map(({ asset, mesh }) => [asset, mesh]))
      const tools = { manifold: await manifold(), machine: createMachine() }
      for (const mesh of shot.meshes)
        if (derivedFrom(mesh.source))
          meshes.set(sourceKey(mesh.source, shot), derive(tools, shot, mesh, meshes))
      await readyFor(shot)
      const facts = new Map(shot.meshes.map(({ id, source }) => [id, meshFacts(meshes.get(sourceKey(source, shot))!)])) // prettier-ignore
      expect(checkShot(shot, facts)).toEqual([])
      const simulation = createSimulation(createMachine(), shot, meshes, { share: trial.share ?? 1 })
      const seen: Seen = {
        shot,
        simulation,
        size,
        of(name) {
          const index = shot.populations.findIndex(({ id }) => id === name)
          const { alive, phases } = simulation.measures().populations[index]!
          const at = simulation.populations()[index]!.columns.position!
          const places = Array.from({ length: alive }, (_, i) => [0, 1, 2].map((k) => at[i * 3 + k]! / size))
          expect(places.flat().every(Number.isFinite)).toBe(true)
          return { places, alive, phases }
        },
      }
      const { first, last, rate } = shot.frames
      const way: number[] = []
      for (const [seconds, right] of trial.right) {
        const frame = seconds === 'end' ? last : first + Math.round(seconds * rate)
        while (simulation.frame < frame) simulation.advance()
        right(seen)
        for (const { id } of shot.populations) way.push(halfWay(seen.of(id).places))
        expect(checkFrame(shot, simulation.measures(), frame)).toEqual([])
      }
      ways.push(way)
      simulation.dispose()
    })

    if (!trial.alike) return
    test('looks the same at each size', () => {
      const [small, ...others] = ways as [number[], ...number[][]]
      expect(others.length).toBe(SIZES.length - 1)
      small.forEach((way, k) => {
        for (const other of others) expect(Math.abs(other[k]! - way)).toBeLessThan(0.05 + 0.05 * way)
      })
    })
  })
}
