import { neighbourCounts } from '../state/neighbours.ts'
import type { ResponseKind } from './response.ts'

/** Radii within which others count. */
const REACH = 4

export const neighbours: ResponseKind = {
  from: 'neighbours',
  label: 'neighbours within four radii',
  unit: '',
  usual: [0, 12],
  interacts: true,
  write: (_, { machine, columns }, __, pointer) => neighbourCounts(machine, columns, REACH, pointer),
}
