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

/**
 * Adds the meshes that are not there yet, waits until they and what is made of them are here, and writes the recipe.
 * Returns what is wrong, or null.
 */
export async function makeRecipe(recipe: Recipe, choices: Record<string, Choice>): Promise<string | null> {
  const { present } = store.getState().shot
  const meshes = [...present.meshes]
  const found: Record<string, ShotMesh> = {}
  for (const { id: slot, label } of recipe.slots) {
    const choice = choices[slot]
    if (!choice) return `Choose a mesh for “${label}”`
    const mesh = meshFor(choice, meshes)
    if (Object.values(found).includes(mesh))
      return `${mesh.name} can’t be both: choose another mesh for “${label}”`
    found[slot] = mesh
  }
  const added = meshes.slice(present.meshes.length)
  const given: Record<string, Given> = {}
  /** Into the shot as it is now: it may have been edited while meshes were read. */
  const write = () => {
    const now = store.getState().shot.present
    return withRecipe(recipe, { ...now, meshes: [...now.meshes, ...added] }, given)
  }
  try {
    for (const [slot, { id, source }] of Object.entries(found))
      given[slot] = { id, mesh: (await engine.loadMesh(source, { ...present, meshes })).mesh }
    const { shot } = write()
    // pieces and shells take seconds: the stage is not to stand empty
    if (shot) await Promise.all(shot.meshes.map(({ source }) => engine.loadMesh(source, shot)))
  } catch (error) {
    return (error as Error).message
  }
  const { shot, problems } = write()
  if (problems) return problems.map(({ path, message }) => `${path} ${message}`).join('; ')
  const population = shot.populations[store.getState().shot.present.populations.length]!
  store.dispatch(mended(CHANGED.map((name) => ({ path: [name], value: shot[name] }))))
  store.dispatch(selected({ population: population.id, influence: null, cue: null, goal: null, mesh: null }))
  const text = `${recipe.label}: made of ordinary rows, tune them in the score`
  store.dispatch(noticed({ text, tone: 'info', undo: { kind: 'edit' } }))
  engine.seek(shot.frames.first)
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
