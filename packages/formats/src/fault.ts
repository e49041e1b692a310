/** A file that can't be read: what is wrong, where, and what to do. */
export class FormatFault extends Error {
  readonly code = 'format'
  readonly where: string
  constructor(where: string, message: string) {
    super(where ? `${where}: ${message}` : message)
    this.where = where
  }
}
/** Farther from the origin than this nothing is computed, metres. */
const FARTHEST = 1e7
/** Whether all are coordinates of a place: f32 holds them, and no farther than 10,000 km. */
export const arePlaces = (...values: number[]): boolean => values.every((x) => Math.abs(x) <= FARTHEST)
export const TOO_FAR =
  'lies more than 10,000 km from the origin, or nowhere: make the mesh smaller, or bring it nearer'
export const atLine = (line: number, message: string): FormatFault => new FormatFault(`line ${line}`, message)
export const atByte = (byte: number, message: string): FormatFault => new FormatFault(`byte ${byte}`, message)
