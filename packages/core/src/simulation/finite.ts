/** A state that has left the numbers stops the simulation, and says where: what follows would be no more than that. */
import { valueAt } from '../document/keys.ts'
import { words } from '../state/columns.ts'
import type { PopulationState, World } from './world.ts'

export class NotFinite extends Error {
  readonly code = 'not-finite'
}

/** @throws NotFinite when a place or a velocity is infinite or no number at the end of a frame. */
export function checkFinite({ machine, populations }: World, frame: number): void {
  for (const population of populations) {
    const { columns } = population
    const { count, at } = columns
    for (const [what, column] of [
      ['place', at.position],
      ['velocity', at.velocity],
    ] as const) {
      const found = machine.call('firstNotFinite', { count: count * 3, column })
      if (found >= 0) throw notFinite(population, frame, what, Math.floor(found / 3))
    }
  }
}

function notFinite(population: PopulationState, frame: number, what: string, particle: number): NotFinite {
  const { source, columns } = population
  const phase = source.phases[words(columns, 'phase')[particle]!]!
  const id = words(columns, 'id')[particle]!
  const strongest = source.influences
    .filter(({ muted }) => !muted)
    .map((one) => ({ one, amount: (one.weights[phase] ?? 0) * valueAt(one.strength, frame) }))
    .toSorted((a, b) => Math.abs(b.amount) - Math.abs(a.amount))[0]
  const suspect = strongest
    ? `. Most acts "${strongest.one.name ?? strongest.one.kind}", with weight × strength = ${Number(strongest.amount.toPrecision(6))}: lower it`
    : ''
  return new NotFinite(
    `Frame ${frame}: the ${what} of particle ${id} of "${source.name}" is no number any more, in phase "${phase}"${suspect}`,
  )
}
