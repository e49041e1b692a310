/** Who has left the surface that it is to follow, and what that says. */
import { follow } from '../influences/follow.ts'
import { valueAt } from '../document/keys.ts'
import type { Keyed } from '../document/parameters.ts'
import type { Influence, Population } from '../document/types.ts'
import { surfaceNear } from '../scene/surfaceProjection.ts'
import type { PopulationState, World } from '../simulation/world.ts'
import { words } from '../state/columns.ts'
import type { Check } from './check.ts'
import { mend, percent, round } from './words.ts'

export interface StrayMeasures {
  /** Of the influence. */
  id: string
  /** Particles that follow now, and those of them that are more than three reaches off their height. */
  following: number
  strayed: number
}

/** So many reaches off, the pull has long been full: the particle has left the surface. */
const REACHES = 3

export const measureStrays = (
  world: World,
  { source, columns }: PopulationState,
  frame: number,
): StrayMeasures[] =>
  source.influences.flatMap((one) => {
    if (one.kind !== follow.kind || one.muted || columns.count === 0) return []
    const acts = source.phases.map((phase) => (one.weights[phase] ?? 0) * valueAt(one.strength, frame) !== 0)
    const { machine, combings } = world
    const { body } = combings.of(one.combing as string)
    const [offset, reach] = [one.offset, one.reach].map((value) => valueAt(value as Keyed, frame)) as [
      number,
      number,
    ]
    // on either side: who runs inside is as near; farther than counts nobody looks
    const height = Math.abs(offset)
    const limit = 1.01 * (height + REACHES * reach)
    const near = surfaceNear(machine, body, frame, columns.at.position, columns.count, limit)
    const distances = machine.heap.f32(near.distance, columns.count)
    const phase = words(columns, 'phase')
    const found = { id: one.id, following: 0, strayed: 0 }
    for (let i = 0; i < columns.count; i++) {
      if (!acts[phase[i]!]) continue
      found.following++
      if (Math.abs(distances[i]! - height) > REACHES * reach) found.strayed++
    }
    near.free()
    return [found]
  })

/** More of those that follow have left the surface than a few at its edges. */
const MANY = 0.02

export function* checkStrays(
  population: Population,
  path: (string | number)[],
  strays: StrayMeasures[] = [],
): Generator<Check> {
  for (const { id, following, strayed } of strays) {
    const index = population.influences.findIndex((one) => one.id === id)
    const one: Influence | undefined = population.influences[index]
    if (!one || following === 0 || strayed / following <= MANY) continue
    const firmer = round(2 * valueAt(one.strength, 0))
    yield {
      id: `${population.id}:${id}:strays`,
      title: `${percent(strayed / following)} of ${population.name} have left the surface that they follow`,
      text: 'They are more than three times its reach away. Let them turn to their way more firmly, pull harder, go slower, or add Stay on surface.',
      ...(firmer > 0 && typeof one.strength === 'number'
        ? { mend: mend(`Strength ${firmer}`, [...path, 'influences', index, 'strength'], firmer) }
        : {}),
    }
  }
}
