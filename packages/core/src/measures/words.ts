/** How checks write numbers and mends. */
import type { Check } from './check.ts'

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
