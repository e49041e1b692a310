/** More recipes of what falls: pieces, crusts and water. */
import { RECIPES } from '../src/index.ts'
import { TRIALS } from './trials.ts'
import { tryOut } from './tryOut.ts'

const falling = RECIPES.filter(({ id }) => !TRIALS[id]!.alike)
tryOut(falling.slice(3))
