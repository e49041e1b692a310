import { descriptions } from '@tangle/core'
import { demoShots } from '@tangle/demo'
import { EXPORTS } from '@tangle/formats'
import { RECIPES } from '@tangle/recipes'
import { InputFault } from './fault.ts'

/** Kinds and their parameters as JSON; one kind, "demos", "recipes", or all. */
export function describeCommand(name: string | undefined): void {
  const kinds = descriptions()
  if (name === 'demos') return print(demoList())
  if (name === 'recipes') return print(recipeList())
  if (name === undefined) {
    return print({
      kinds,
      formats: EXPORTS.map(({ kind, label, help }) => ({ kind, label, help })),
      demos: demoList(),
      recipes: recipeList(),
    })
  }
  const found = kinds.filter((one) => one.kind === name)
  if (found.length === 0)
    throw new InputFault(
      `There is no kind "${name}": the kinds are ${kinds.map((k) => k.kind).join(', ')}; or ask for demos or recipes`,
    )
  // a mask and a cue may have the same name
  print(found.length === 1 ? found[0] : found)
}

function demoList(): unknown {
  const shots = demoShots(() => `sha256:${'0'.repeat(64)}`)
  return shots.map(({ slug, title, shot }) => ({
    name: `demo:${slug}`,
    title,
    frames: shot.frames,
    meshes: shot.meshes.map((m) => m.name),
  }))
}
const recipeList = (): unknown =>
  RECIPES.map(({ id, label, help, slots }) => ({
    name: id,
    label,
    help,
    meshes: slots.map((slot) => ({ slot: slot.id, what: slot.label, closed: slot.closed ?? false })),
  }))

const print = (value: unknown): void => console.log(JSON.stringify(value, null, 2))
