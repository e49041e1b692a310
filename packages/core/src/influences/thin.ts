import { drawRandoms } from '../math/draw.ts'
import { STREAM } from '../math/random.ts'
import { number } from '../document/parameters.ts'
import { floats, randomKeys, words } from '../state/columns.ts'
import { APPLIED, influence } from './influence.ts'

/** Whoever's number by chance is at or above the share gets size 0, and dies. */
export const thin = influence({
  kind: 'thin',
  family: 'change',
  label: 'Thin out',
  glyph: '∴',
  help: 'Leaves a share of them, by chance, and lets the others die: of any two shares the smaller is part of the larger',
  pitfall: 'More vanish than was meant: it is a share of all, whatever their phase before.',
  source: '',
  attributes: ['birthRadius'],
  parameters: {
    strength: APPLIED,
    share: number({
      label: 'Share',
      unit: '×',
      help: 'Of them that stay; keyed, they go little by little',
      default: 0.5,
      range: [0, 1],
      usual: [0, 1],
      step: 0.01,
      keyable: true,
    }),
  },
  updateAttributes({ share }, { machine, columns, amount, seed }) {
    const { count, heap } = columns
    const draws = drawRandoms(machine, words(columns, randomKeys(columns)), seed, STREAM.thin)
    const weights = heap.f32(amount, count)
    // whatever else resizes them goes by the size at birth
    const sizes = [floats(columns, 'radius'), floats(columns, 'birthRadius')]
    for (let i = 0; i < count; i++)
      if (weights[i]! > 0 && draws[i * 4]! >= 1 - weights[i]! * (1 - share))
        for (const size of sizes) size[i] = 0
  },
})
