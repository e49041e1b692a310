/** Whether the particles of a shot act on one another. Where they don't, a part of them is computed without the others. */
import { valuesAt } from '../document/keys.ts'
import type { Influence, Population, Shot } from '../document/types.ts'
import { goalKind, influenceKind, RESPONSES } from '../registry.ts'

/** What makes particles act on one another, as artists call it; null: nothing does. */
export function interactionIn({ quality, populations, frames }: Shot): string | null {
  // all have to rest before the first frame
  if (quality.settle > 0) return 'Settling first'
  for (const { name, id, births, influences, goals, look } of populations) {
    // whose ids follow from those of all the others
    if (births.some(({ from, muted }) => from !== undefined && !muted))
      return `Births from particles of ${name ?? id}`
    const found = influences.find(interacts)
    if (found) return `${influenceKind(found.kind).label} of ${name ?? id}`
    const goal = goals.find((one) => !isIndependent(one, frames.first))
    if (goal) return `${goalKind(goal.kind).label}, a goal of ${name ?? id}`
    // it lies about all of them
    if (look.skin) return `The skin of ${name ?? id}`
  }
  return null
}

function interacts({ muted, kind, responses = [] }: Influence): boolean {
  if (muted) return false
  const { interacts: asks, constraint, cover } = influenceKind(kind)
  if (asks || constraint?.couples || cover) return true
  return responses.some(({ from }) => RESPONSES.find((one) => one.from === from)?.interacts)
}

/** Values of goals that say who goes where can't be keyed. */
function isIndependent(goal: Population['goals'][number], frame: number): boolean {
  const kind = goalKind(goal.kind)
  return kind.independent(valuesAt(kind.parameters, goal, frame) as never)
}
