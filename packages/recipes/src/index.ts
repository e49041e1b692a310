/** Recipes: ready shots to start from, made for the meshes that they are given. */
import { clump } from './effects/clump.ts'
import { crowd } from './effects/crowd.ts'
import { cut } from './effects/cut.ts'
import { dust } from './effects/dust.ts'
import { fill } from './effects/fill.ts'
import { mend } from './effects/mend.ts'
import { morph } from './effects/morph.ts'
import { pile } from './effects/pile.ts'
import { sand } from './effects/sand.ts'
import { scan } from './effects/scan.ts'
import { shell } from './effects/shell.ts'
import { snow } from './effects/snow.ts'
import { streams } from './effects/streams.ts'
import { swarm } from './effects/swarm.ts'
import { wake } from './effects/wake.ts'
import { wipe } from './effects/wipe.ts'
import type { Recipe } from './recipe.ts'

/** Every recipe, in the order in which the interface offers them. */
export const RECIPES: Recipe[] = [
  dust,
  wipe,
  morph,
  swarm,
  streams,
  crowd,
  pile,
  sand,
  cut,
  snow,
  mend,
  shell,
  scan,
  wake,
  fill,
  clump,
]

export { exampleOf, type Example } from './examples.ts'
export { hasVariants, variantsOf, type Told, type Variant } from './variants.ts'
export { withRecipe, type Given } from './apply.ts'
export type { Recipe, Slot } from './recipe.ts'
export { standingOf, type Standing } from './standing.ts'
