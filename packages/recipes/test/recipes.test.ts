/** Every recipe has a trial and stands beside others; those that take as long at every size are tried here. */
import { emptyShot, liftedValues, vectorAt } from '@tangle/core'
import { RECIPES } from '../src/index.ts'
import { TRIALS } from './trials.ts'
import { tryOut, written } from './tryOut.ts'

test('each recipe has a trial', () => {
  expect(Object.keys(TRIALS).toSorted()).toEqual(RECIPES.map(({ id }) => id).toSorted())
})

/** Numbers that differ between two documents, by how much. */
function differences(a: unknown, b: unknown): number[] {
  if (typeof a === 'number' && typeof b === 'number') return a === b ? [] : [b - a]
  if (typeof a !== 'object' || a === null) return []
  return Object.keys(a).flatMap((key) => differences((a as Loose)[key], (b as Loose)[key]))
}
type Loose = Record<string, unknown>

test.each(RECIPES.map((recipe) => [recipe.label, recipe] as const))(
  '%s: far from the origin all is where it is there, moved along',
  (_, recipe) => {
    const { meshes } = TRIALS[recipe.id]!
    const position: [number, number, number] = [1234.567, -55.5, -987.6]
    const here = written(recipe, meshes, 1).shot
    const found = differences(here, written(recipe, meshes, 1, emptyShot('Empty'), { position }).shot)
    expect(found.length).toBeGreaterThan(3)
    // what is measured is so to single precision
    expect(found.filter((d) => Math.min(...[0, ...position].map((by) => Math.abs(d - by))) > 0.001)).toEqual(
      [],
    )
  },
)

test('what travels or is filled keeps how it is turned and scaled', () => {
  const place = { position: [3, 1, 2], rotation: [-90, 40, 10], scale: [2, 1, 0.5] } as const
  for (const [id, slot] of [
    ['wake', 'body'],
    ['fill', 'vessel'],
  ] as const) // prettier-ignore
  {
    const recipe = RECIPES.find((one) => one.id === id)!
    const { shot } = written(recipe, TRIALS[id]!.meshes, 1, emptyShot('Empty'), structuredClone(place) as never)
    const stands = shot.meshes.find((mesh) => mesh.id === slot)!.place
    expect(vectorAt(stands.rotation, 1)).toEqual(place.rotation)
    expect(stands.scale).toEqual(place.scale)
  }
})

tryOut(RECIPES.filter(({ id }) => TRIALS[id]!.alike))

test.each(RECIPES.map((recipe) => [recipe.label, recipe] as const))(
  '%s is written beside what is there: ids and names of its own, more frames, the camera stays',
  (_, recipe) => {
    const once = written(recipe, TRIALS[recipe.id]!.meshes, 1).shot
    const start = {
      ...once,
      frames: { ...once.frames, last: 30 },
      stage: { ...once.stage, backdrop: 'paper' },
    }
    const { shot } = written(recipe, TRIALS[recipe.id]!.meshes, 1, start)
    expect(shot.populations.length).toBe(2 * once.populations.length)
    for (const list of [shot.meshes, shot.masks, shot.populations])
      for (const key of ['id', 'name'] as const) expect(new Set(list.map((one) => one[key])).size).toBe(list.length) // prettier-ignore
    expect([shot.frames.last, shot.stage]).toEqual([once.frames.last, start.stage])
    expect(liftedValues(shot).every(({ path }) => path[0] !== 'populations' || (path[1] as number) >= once.populations.length)).toBe(true) // prettier-ignore
  },
)
