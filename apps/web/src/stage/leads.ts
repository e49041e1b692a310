/** Where a check leads: the step and the row that mend it. */
import type { Check, Shot } from '@tangle/core'
import type { Session } from '../store/session.ts'
import type { Step } from '../steps/steps.ts'

export interface Lead {
  step: Step
  select: Partial<Session['selected']>
}

/** By what its mend changes, or else by what its id names; null where it is about no row. */
export function leadOf({ id, mend }: Check, shot: Shot): Lead | null {
  const [list, index, inside, place] = mend?.edits[0]?.path ?? []
  if (list === 'meshes') return { step: 'meshes', select: { mesh: shot.meshes[Number(index)]?.id ?? null } }
  if (list === 'masks')
    return { step: 'masks', select: { mask: shot.masks[Number(index)]?.id ?? null, combing: null } }
  if (list === 'populations') {
    const population = shot.populations[Number(index)]!
    const named = (population[inside as 'births'] as { id: string }[] | undefined)?.[Number(place)]?.id
    return inPopulation(population.id, String(inside), named ?? null)
  }
  return byName(id, shot)
}

function inPopulation(population: string, list: string, id: string | null): Lead {
  switch (list) {
    case 'births':
      return { step: 'births', select: { population, birth: id } }
    case 'look':
      return { step: 'look', select: { population } }
    case 'particle':
    case 'attributes':
      return { step: 'births', select: { population } }
    case 'goals':
      return { step: 'motion', select: { population, goal: id ?? '' } }
    case 'cues':
      return { step: 'motion', select: { population, cue: id } }
    default:
      return { step: 'motion', select: { population, influence: id } }
  }
}

/** Ids of checks begin with what they are about: "dust:on-rock:slow", "front:uv". */
function byName(id: string, { populations, meshes, masks }: Shot): Lead | null {
  const [first, second] = id.split(':')
  const population = populations.find((one) => one.id === first)
  if (population) {
    const lists = ['births', 'influences', 'cues', 'goals'] as const
    const list = lists.find((one) => population[one].some((entry) => entry.id === second))
    return inPopulation(
      population.id,
      list ?? (second === 'none' ? 'births' : 'influences'),
      list ? second! : null,
    )
  }
  if (masks.some((one) => one.id === first)) return { step: 'masks', select: { mask: first!, combing: null } }
  if (meshes.some((one) => one.id === first)) return { step: 'meshes', select: { mesh: first! } }
  return null
}
