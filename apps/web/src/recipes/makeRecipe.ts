/** Writes a recipe into the shot that is open. */
import { derivedFrom, type MeshSource, type Shot, type ShotMesh } from '@tangle/core'
import { withRecipe, type Given, type Recipe } from '@tangle/recipes'
import { engine } from '../engine/engine.ts'
import { lettering, newMesh } from '../steps/meshFiles.ts'
import { store } from '../store/index.ts'
import { noticed, selected } from '../store/session.ts'
import { mended } from '../store/shot.ts'

/** What is to fill a slot: a mesh of the shot, a stored one, or lettering. */
export type Choice =
  | { from: 'shot'; id: string }
  | { from: 'stored'; asset: string; name: string }
  | { from: 'text'; text: string }

/** What a recipe changes of a shot: one step of undo. */
const CHANGED = ['frames', 'quality', 'meshes', 'masks', 'populations', 'stage', 'lifted'] as const

/** Adds the meshes that are not there yet, waits until they are read, and writes the recipe. Returns what is wrong, or null. */
export async function makeRecipe(recipe: Recipe, choices: Record<string, Choice>): Promise<string | null> {
  const { present } = store.getState().shot
  const meshes = [...present.meshes]
  const found: Record<string, ShotMesh> = {}
  for (const { id: slot, label } of recipe.slots) {
    const choice = choices[slot]
    if (!choice) return `Choose a mesh for “${label}”`
    found[slot] = meshFor(choice, meshes)
  }
  const shot: Shot = { ...present, meshes }
  const given: Record<string, Given> = {}
  try {
    for (const [slot, { id, source }] of Object.entries(found))
      given[slot] = { id, mesh: (await engine.loadMesh(source, shot)).mesh }
  } catch (error) {
    return (error as Error).message
  }
  // the shot may have been edited while meshes were read
  const now = store.getState().shot.present
  const added = meshes
    .slice(present.meshes.length)
    .filter((one) => !now.meshes.some(({ id }) => id === one.id))
  const made = withRecipe(recipe, { ...now, meshes: [...now.meshes, ...added] }, given)
  if (made.problems) return made.problems.map(({ path, message }) => `${path} ${message}`).join('; ')
  store.dispatch(mended(CHANGED.map((name) => ({ path: [name], value: made.shot[name] }))))
  const population = made.shot.populations[now.populations.length]!
  store.dispatch(selected({ population: population.id, influence: null, cue: null, goal: null, mesh: null }))
  store.dispatch(noticed({ text: `${recipe.label}: made of ordinary rows, tune them in the score`, tone: 'info', undo: { kind: 'edit' } })) // prettier-ignore
  engine.seek(made.shot.frames.first)
  return null
}

/** The mesh of the shot that a choice names; one that is not there yet is put behind the others. */
function meshFor(choice: Choice, meshes: ShotMesh[]): ShotMesh {
  if (choice.from === 'shot') return meshes.find(({ id }) => id === choice.id)!
  const source: MeshSource = choice.from === 'text' ? lettering(choice.text) : { asset: choice.asset }
  const mesh = newMesh(choice.from === 'text' ? 'Lettering' : choice.name, source, meshes)
  meshes.push(mesh)
  return mesh
}

/** Meshes of a shot that a recipe may take: those that are not made of others. */
export const takeable = ({ meshes }: Shot): ShotMesh[] => meshes.filter(({ source }) => !derivedFrom(source))
