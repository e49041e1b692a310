import {
  completeMesh,
  defaultsOf,
  emptyShot,
  freshId,
  TEXT,
  type Mesh,
  type MeshSource,
  type Shot,
} from '@tangle/core'
import { readMesh } from '@tangle/formats'
import { RECIPES, withRecipe, type Given, type Recipe } from '@tangle/recipes'
import { makeText, readMeshAside } from '@tangle/runtime/node'
import { readFile, writeFile } from 'node:fs/promises'
import { basename, dirname, extname, relative, resolve } from 'node:path'
import { InputFault, UsageFault } from './fault.ts'

export interface RecipeFlags {
  mesh: string[]
  scale?: string
  out?: string
}

/** Writes a shot from a recipe for meshes in files, or lettering ("body=text:QUAY"). */
export async function recipeCommand(name: string, flags: RecipeFlags): Promise<void> {
  const recipe = RECIPES.find(({ id }) => id === name)
  if (!recipe)
    throw new InputFault(
      `There is no recipe "${name}": the recipes are ${RECIPES.map(({ id }) => id).join(', ')}`,
    )
  const scale = Number(flags.scale ?? 1)
  if (!(scale > 0)) throw new UsageFault('--scale must be a number above 0')
  const places = slotsIn(recipe, flags.mesh)
  const folder = dirname(resolve(flags.out ?? 'shot.json'))
  const shot: Shot = emptyShot(recipe.label)
  const given: Record<string, Given> = {}
  for (const [slot, place] of places) {
    const { mesh, source, title } = await meshFrom(place, folder)
    const id = freshId(
      title,
      shot.meshes.map((one) => one.id),
    )
    shot.meshes.push(
      completeMesh({
        id,
        name: title,
        source,
        place: { position: [0, 0, 0], rotation: [0, 0, 0], scale: [scale, scale, scale] },
      }),
    )
    given[slot] = { id, mesh }
  }
  const made = withRecipe(recipe, shot, given)
  if (made.problems)
    throw new InputFault(made.problems.map(({ path, message }) => `${path} ${message}`).join('\n'))
  const text = `${JSON.stringify(made.shot, null, 2)}\n`
  if (flags.out === undefined) process.stdout.write(text)
  else await writeFile(flags.out, text)
}

/** What is given for each slot; a sentence about what is missing or too much. */
function slotsIn(recipe: Recipe, meshes: string[]): Map<string, string> {
  const slots = recipe.slots.map(({ id, label }) => `${id} (${label.toLowerCase()})`).join(', ')
  const found = new Map(meshes.map((one) => [one.split('=', 1)[0]!, one.slice(one.indexOf('=') + 1)]))
  const wrong = [...found.keys()].find((slot) => !recipe.slots.some(({ id }) => id === slot))
  const missing = recipe.slots.find(({ id }) => !found.get(id))
  if (wrong !== undefined) throw new UsageFault(`"${recipe.id}" takes no mesh "${wrong}": it takes ${slots}`)
  if (missing) throw new UsageFault(`"${recipe.id}" takes ${slots}: give each as --mesh ${missing.id}=FILE`)
  return found
}

async function meshFrom(
  place: string,
  folder: string,
): Promise<{ mesh: Mesh; source: MeshSource; title: string }> {
  if (place.startsWith('text:')) {
    const text = { ...defaultsOf(TEXT), text: place.slice(5) } as never
    return { mesh: await makeText(text), source: { text }, title: 'Lettering' }
  }
  const bytes = await readFile(place).catch((error: NodeJS.ErrnoException) => {
    throw new InputFault(`${place}: can't be read (${error.code}): check the path`)
  })
  const { fault } = await readMeshAside(place, bytes)
  if (fault !== undefined) throw new InputFault(`${place}: ${fault}`)
  const title = basename(place, extname(place))
  return { mesh: await readMesh(place, bytes), source: { file: relative(folder, resolve(place)) }, title }
}
