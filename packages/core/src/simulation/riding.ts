import type { Population } from '../document/types.ts'
import { influenceKind } from '../registry.ts'

/** For each phase of a population whether an influence holds particles there where they were born on their mesh. */
export const ridesIn = ({ phases, influences }: Pick<Population, 'phases' | 'influences'>): boolean[] =>
  phases.map((phase) => influences.some(({ kind, muted, weights }) => !muted && (influenceKind(kind).pins ?? false) && (weights[phase] ?? 0) !== 0)) // prettier-ignore
