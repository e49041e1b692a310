/** The part of opentype.js 2 that is used here; the package brings no types. */
declare module 'opentype.js' {
  namespace opentype {
    type PathCommand =
      | { type: 'M' | 'L'; x: number; y: number }
      | { type: 'Q'; x1: number; y1: number; x: number; y: number }
      | { type: 'C'; x1: number; y1: number; x2: number; y2: number; x: number; y: number }
      | { type: 'Z' }
    interface Glyph {
      advanceWidth?: number
      path: { commands: PathCommand[] }
      getMetrics(): { yMax: number }
    }
    interface Font {
      unitsPerEm: number
      charToGlyph(letter: string): Glyph
    }
  }
  const opentype: { parse(bytes: ArrayBuffer): opentype.Font }
  export default opentype
}
