/** Every recipe has a trial and stands beside others; those that take as long at every size are tried here. */
import { liftedValues } from '@tangle/core'
import { RECIPES } from '../src/index.ts'
import { TRIALS } from './trials.ts'
import { tryOut, written } from './tryOut.ts'

test('each recipe has a trial', () => {
  expect(Object.keys(TRIALS).toSorted()).toEqual(RECIPES.map(({ id }) => id).toSorted())
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
