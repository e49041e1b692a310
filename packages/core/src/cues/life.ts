import { number } from '../document/parameters.ts'
import { cue } from './cue.ts'

/** age / lifespan ≥ share. Who lives to the end of the shot never gets there. */
export const life = cue({
  kind: 'life',
  label: 'Part of its life',
  glyph: '◕',
  help: 'When it has lived a share of its lifespan',
  pitfall: 'Nobody goes: without a lifespan there is no share of it.',
  source: '',
  parameters: {
    share: number({
      label: 'Share',
      unit: 'of life',
      help: '0.5 is half-way',
      default: 0.5,
      range: [0, 1],
      usual: [0, 1],
      step: 0.01,
      keyable: true,
    }),
  },
  test({ share }, { column }) {
    const age = column('age')
    const lifespan = column('lifespan')
    return (k) => age[k]! >= share * lifespan[k]!
  },
  words: ({ share }) =>
    `${typeof share === 'number' || share === undefined ? Math.round(((share as number) ?? 0.5) * 100) : '…'} % of life`,
})
