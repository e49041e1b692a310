import { drawRandoms } from '../math/draw.ts'
import { STREAM } from '../math/random.ts'
import { randomKeys, words } from '../state/columns.ts'
import type { ResponseKind } from './response.ts'

export const chance: ResponseKind = {
  from: 'random',
  label: 'chance',
  unit: '',
  usual: [0, 1],
  write(out, { machine, columns, seed }) {
    const draws = drawRandoms(machine, words(columns, randomKeys(columns)), seed, STREAM.response)
    for (let i = 0; i < out.length; i++) out[i] = draws[i * 4]!
  },
}
