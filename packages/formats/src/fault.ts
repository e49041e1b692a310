/** A file that can't be read: what is wrong, where, and what to do. */
export class FormatFault extends Error {
  readonly code = 'format'
  readonly where: string
  constructor(where: string, message: string) {
    super(where ? `${where}: ${message}` : message)
    this.where = where
  }
}
export const atLine = (line: number, message: string): FormatFault => new FormatFault(`line ${line}`, message)
export const atByte = (byte: number, message: string): FormatFault => new FormatFault(`byte ${byte}`, message)
