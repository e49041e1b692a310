/**
 * Steps of sequences that fill a line (golden ratio) and a square evenly, however long they go on.
 * Source: Roberts, "The unreasonable effectiveness of quasirandom sequences" (2018).
 */
export const ON_LINE = 0.618033988749895
export const ON_SQUARE = [0.7548776662466927, 0.5698402909980532] as const

/** What is left of a number without its whole part: 0–1. */
export const part = (x: number): number => x - Math.floor(x)
