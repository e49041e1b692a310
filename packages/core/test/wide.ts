/** What is tested always, and what only `./tangle test --wide` adds: the same claims at more sizes, seeds, threads and qualities. */
const isWide = process.env.TANGLE_WIDE === '1'

/** Rows of a table of cases: the first ones always, all of them in the wide tests. */
export const firstOf = <T>(kept: number, rows: readonly T[]): T[] =>
  isWide ? [...rows] : rows.slice(0, kept)

/** How much of something is tried: always, and in the wide tests. */
export const much = <T>(always: T, inWide: T): T => (isWide ? inWide : always)

/** A test that only the wide tests run. */
export const wide = (isWide ? test : () => undefined) as typeof test
