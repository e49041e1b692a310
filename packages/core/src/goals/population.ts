import { reference } from '../document/parameters.ts'
import { COMMON, goal } from './goal.ts'

/** The particles of another population: who goes to one follows it wherever it goes, until it dies. */
export const population = goal({
  kind: 'population',
  label: 'On a population',
  glyph: '∴',
  help: 'The particles of another population, which may move; who follows one that dies has no goal any more',
  source: '',
  parameters: {
    population: reference({ label: 'Population', help: 'Whom they go to', to: 'population' }),
    ...COMMON,
  },
  independent: () => false,
  places({ population }, { members }) {
    const { number, ids, positions } = members(population)
    return { on: number, points: { ids, positions }, own: false, lasting: true }
  },
})
