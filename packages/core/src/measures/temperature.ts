/** What is measured of temperatures, and what the document says of them. */
import type { Population } from '../document/types.ts'
import { heat } from '../influences/heat.ts'
import { warmth } from '../influences/warmth.ts'
import { completeInfluence } from '../schema/complete.ts'
import type { PopulationState } from '../simulation/world.ts'
import { floats } from '../state/columns.ts'
import type { Check } from './check.ts'
import { acting, mend } from './words.ts'

/** °C */
export interface TemperatureMeasures {
  coldest: number
  mean: number
  warmest: number
}

/** Null where particles have no temperature, or there are none. */
export function measureTemperature({ columns }: PopulationState): TemperatureMeasures | null {
  if (!columns.at.temperature || columns.count === 0) return null
  let [coldest, sum, warmest] = [Infinity, 0, -Infinity]
  for (const one of floats(columns, 'temperature')) {
    coldest = Math.min(coldest, one)
    warmest = Math.max(warmest, one)
    sum += one
  }
  return { coldest, mean: sum / columns.count, warmest }
}

/** Rules that ask for a temperature that nothing changes. */
export function* checkTemperature(population: Population, index: number): Generator<Check> {
  const { id, name, cues, influences, phases } = population
  if (acting(population, warmth).length + acting(population, heat).length > 0) return
  const asks =
    cues.some(({ when }) => when.kind === 'temperature') ||
    influences.some(({ muted, responses }) => !muted && responses?.some(({ from }) => from === 'temperature'))
  if (!asks) return
  const weights = Object.fromEntries(phases.map((phase) => [phase, 1]))
  // the name may be taken by another kind
  const free = influences.some((one) => one.id === warmth.kind) ? `${warmth.kind}2` : warmth.kind
  const made = completeInfluence({ id: free, kind: warmth.kind, weights }, phases)
  yield {
    id: `${id}:temperature`,
    title: `Nothing gives ${name} a temperature`,
    text: 'A cue or a response asks for it, but all of them are at 20 °C for good: Warmth lets heat flow, Heat warms or cools them.',
    mend: mend('Add Warmth', ['populations', index, 'influences'], [...influences, made]),
  }
}
