/** Recipes of what falls, which take the time that falling takes. */
import { RECIPES } from '../src/index.ts'
import { TRIALS } from './trials.ts'
import { tryOut } from './tryOut.ts'

const falling = RECIPES.filter(({ id }) => !TRIALS[id]!.alike)
tryOut(falling.slice(0, 3))
