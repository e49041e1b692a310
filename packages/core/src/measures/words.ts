/** How checks ask what acts, and write numbers and mends. */
import type { Population, Shot } from '../document/types.ts'
import { qualityOf, type Quality } from '../schema/quality.ts'
import type { Check } from './check.ts'

/** Influences of a kind that are not muted. */
export const acting = ({ influences }: Population, { kind }: { kind: string }) =>
  influences.filter((one) => one.kind === kind && !one.muted)

export const percent = (share: number): string =>
  share > 0 && share < 0.01
    ? `${Number((share * 100).toPrecision(1))} %`
    : `${Math.max(1, Math.round(share * 100))} %`
/** Two digits. */
export const round = (x: number): number => Number(x.toPrecision(2))
export const mend = (
  label: string,
  path: (string | number)[],
  value: unknown,
): NonNullable<Check['mend']> => ({
  label,
  edits: [{ path, value }],
})

/** Substeps or iterations of the shot's own, from what it is computed with now. */
export const mendQuality = (
  label: string,
  shot: Shot,
  numbers: Partial<Quality>,
): NonNullable<Check['mend']> =>
  mend(label, ['quality'], { ...shot.quality, ...qualityOf(shot), ...numbers, level: 'own' })
