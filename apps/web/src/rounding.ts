/** A number that reads well beside others of some size: nothing stands at −3.7e-9 m where a metre is meant. */
export function roundedTo(x: number, size: number, digits = 3): number {
  const step = 10 ** (Math.floor(Math.log10(Math.max(Math.abs(size), 1e-9))) - digits)
  // −0 is 0
  return Number((Math.round(x / step) * step).toPrecision(12)) || 0
}
