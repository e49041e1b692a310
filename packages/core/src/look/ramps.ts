import { clamp } from '../math/functions.ts'
import type { RampChoice } from '../document/parameters.ts'

/** Colour stops over 0…1, in sRGB. Drawn on the stage and written as displayColor. */
export interface Ramp {
  label: string
  stops: [position: number, hex: string][]
}

export const RAMPS: Record<string, Ramp> = {
  ember: {
    label: 'Ember',
    stops: [
      [0, '#fff1d8'],
      [0.35, '#f6b863'],
      [0.7, '#b3543f'],
      [1, '#4a2440'],
    ],
  },
  snow: {
    label: 'Snow',
    stops: [
      [0, '#ffffff'],
      [0.5, '#dfe8f5'],
      [1, '#a9bcd9'],
    ],
  },
  brine: {
    label: 'Brine',
    stops: [
      [0, '#e6fff4'],
      [0.4, '#6cd6bd'],
      [1, '#1c4f6b'],
    ],
  },
  brass: {
    label: 'Brass',
    stops: [
      [0, '#fff6cf'],
      [0.5, '#d9a441'],
      [1, '#5e3b1e'],
    ],
  },
  heather: {
    label: 'Heather',
    stops: [
      [0, '#f7e6ff'],
      [0.5, '#a98bd6'],
      [1, '#3d2b63'],
    ],
  },
  ash: {
    label: 'Ash',
    stops: [
      [0, '#f2efe9'],
      [0.5, '#9c958f'],
      [1, '#3a3638'],
    ],
  },
  dawn: {
    label: 'Dawn',
    stops: [
      [0, '#fff3dc'],
      [0.5, '#ffc486'],
      [1, '#f08f86'],
    ],
  },
  ink: {
    label: 'Ink',
    stops: [
      [0, '#0e2c40'],
      [0.5, '#2b2a56'],
      [1, '#5a1f35'],
    ],
  },
}

/** Of the ramps above, each has an end that vanishes before some backdrop; of these, neither does before a dark and a light one. */
const [ON_DARK, ON_LIGHT] = ['dawn', 'ink']

export const BACKDROPS: Record<
  string,
  { label: string; light: boolean; sky: string; horizon: string; ground: string; floor: string }
> = {
  dusk: {
    label: 'Dusk',
    light: false,
    sky: '#1b1528',
    horizon: '#4a2c4c',
    ground: '#1a1424',
    floor: '#3b3049',
  },
  night: {
    label: 'Night',
    light: false,
    sky: '#0d0b13',
    horizon: '#1b1a2c',
    ground: '#100d17',
    floor: '#262436',
  },
  fog: { label: 'Fog', light: true, sky: '#6f7683', horizon: '#9ba0a6', ground: '#5d626b', floor: '#7d838c' },
  paper: {
    label: 'Paper',
    light: true,
    sky: '#f6f1e7',
    horizon: '#e4dac8',
    ground: '#efe8da',
    floor: '#f0eadd',
  },
}

/** A part of a colour, 0–1, from sRGB to linear (sRGB transfer, IEC 61966-2-1). */
export const linearPart = (s: number): number => (s <= 0.04045 ? s / 12.92 : ((s + 0.055) / 1.055) ** 2.4)
/** And back. */
export const srgbPart = (x: number): number => (x <= 0.0031308 ? x * 12.92 : 1.055 * x ** (1 / 2.4) - 0.055)
const linear = (hex: string, at: number): number => linearPart(parseInt(hex.slice(at, at + 2), 16) / 255)
/** Linear RGB of a hex colour (sRGB transfer, IEC 61966-2-1). */
export const linearColour = (hex: string): [number, number, number] => [
  linear(hex, 1),
  linear(hex, 3),
  linear(hex, 5),
]

/** The stops of a ramp, in order. */
export const stopsOf = (ramp: RampChoice): Ramp['stops'] =>
  typeof ramp === 'string' ? (RAMPS[ramp] ?? RAMPS.ember!).stops : ramp.stops

/** Colours in the table of a ramp. */
export const RAMP_ENTRIES = 256
/** Tables by the stops that they are of: documents are never changed. */
const tables = new WeakMap<Ramp['stops'], Float32Array>()

/** A ramp as 256 linear RGB colours, to be read only; before the first stop and after the last it holds. */
export function rampTable(ramp: RampChoice): Float32Array {
  const stops = stopsOf(ramp)
  const table = tables.get(stops) ?? tableOf(stops, RAMP_ENTRIES)
  tables.set(stops, table)
  return table
}

function tableOf(stops: Ramp['stops'], entries: number): Float32Array {
  const table = new Float32Array(entries * 3)
  for (let i = 0; i < entries; i++) {
    const t = i / (entries - 1)
    const found = stops.findIndex(([position]) => position >= t)
    const after = found < 0 ? stops.length - 1 : found
    const [a, from] = stops[Math.max(0, after - 1)]!
    const [b, to] = stops[after]!
    const u = b > a ? clamp((t - a) / (b - a), 0, 1) : 1
    const start = linearColour(from)
    const end = linearColour(to)
    for (let k = 0; k < 3; k++) table[i * 3 + k] = start[k]! + (end[k]! - start[k]!) * u
  }
  return table
}

/** Place of a value on the ramp, 0–1. A range of no width counts as a step. */
export const onRamp = (value: number, [low, high]: [number, number]): number =>
  high === low ? (value < low ? 0 : 1) : clamp((value - low) / (high - low), 0, 1)

/** Relative luminance of a hex colour (WCAG 2.2). */
function luminance(hex: string): number {
  const [r, g, b] = linearColour(hex)
  return 0.2126 * r + 0.7152 * g + 0.0722 * b
}
/** Contrast of two hex colours, 1 to 21 (WCAG 2.2). */
export function contrastOf(a: string, b: string): number {
  const [dark, light] = [luminance(a), luminance(b)].toSorted((x, y) => x - y) as [number, number]
  return (light + 0.05) / (dark + 0.05)
}
/** A ramp whose ends both stand off a backdrop. */
export const standsOff = (backdrop: string): string => (BACKDROPS[backdrop]?.light ? ON_LIGHT : ON_DARK)!
