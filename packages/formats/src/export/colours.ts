import {
  onRamp,
  ownName,
  rampTable,
  srgbPart,
  type Glow,
  type Look,
  type OwnAttribute,
  type PopulationFrame,
} from '@tangle/core'

/** The number that colours a particle, before the range of the look. */
export function colourValue(look: Look, { columns, count }: PopulationFrame, i: number): number {
  switch (look.colour.from) {
    case 'age': {
      const lifespan = columns.lifespan?.[i] ?? Infinity
      // who lives for ever is young for ever: there the range is read in seconds
      return Number.isFinite(lifespan) ? columns.age![i]! / lifespan : (columns.age?.[i] ?? 0)
    }
    case 'speed': {
      const v = columns.velocity
      if (!v) return 0
      return Math.hypot(v[i * 3]!, v[i * 3 + 1]!, v[i * 3 + 2]!)
    }
    case 'travelled':
    case 'temperature':
    case 'pressure':
    case 'compression':
    case 'stress':
      return columns[look.colour.from]?.[i] ?? 0
    case 'own':
      return 0
    case 'attribute': {
      const values = columns[ownName(look.colour.attribute ?? '')]
      const width = values && count > 0 ? values.length / count : 1
      if (!values || width === 1) return values?.[i] ?? 0
      return Math.hypot(values[i * 3]!, values[i * 3 + 1]!, values[i * 3 + 2]!)
    }
  }
}

/** Linear RGB per particle, by the look of its population; an attribute that is a colour is taken as it is. */
export function coloursOf(look: Look, population: PopulationFrame, own: OwnAttribute[] = []): Float32Array {
  const chosen = own.find(({ id }) => look.colour.from === 'attribute' && id === look.colour.attribute)
  if (look.colour.from === 'own' || chosen?.type === 'colour') {
    const name = chosen ? ownName(chosen.id) : 'colour'
    return (
      (population.columns[name]?.slice() as Float32Array) ?? new Float32Array(population.count * 3).fill(1)
    )
  }
  const table = rampTable(look.colour.ramp)
  const out = new Float32Array(population.count * 3)
  for (let i = 0; i < population.count; i++) {
    const entry = Math.round(onRamp(colourValue(look, population, i), look.colour.range) * 255) * 3
    out.set(table.subarray(entry, entry + 3), i * 3)
  }
  return out
}

/** Linear RGB of the light that each gives: its colour times the brightness of the glow, above 1 as well; null where none glows. */
export function emissionOf(
  look: Look,
  population: PopulationFrame,
  own: OwnAttribute[] = [],
): Float32Array | null {
  const { glow } = look
  if (!glow || glow.strength === 0) return null
  const bright = brightnessBy(look, glow, population)
  const colours = coloursOf(look, population, own)
  return colours.map((part, k) => part * glow.strength * bright(Math.floor(k / 3)))
}

/** What of its full brightness a particle has, 0–1: as it is on the stage. */
function brightnessBy(
  look: Look,
  { by, speed, attribute, full }: Glow,
  population: PopulationFrame,
): (i: number) => number {
  const part = (x: number): number => Math.min(1, Math.max(0, x))
  const read = (colour: Partial<Look['colour']>, i: number): number =>
    colourValue({ ...look, colour: { ...look.colour, ...colour } }, population, i)
  if (by === 'life') return (i) => part(1 - read({ from: 'age' }, i))
  if (by === 'speed') return (i) => part(read({ from: 'speed' }, i) / speed)
  if (by === 'value') return (i) => onRamp(colourValue(look, population, i), look.colour.range)
  // by an attribute that nobody has all are alike
  if (by === 'attribute' && attribute !== undefined && population.columns[ownName(attribute)])
    return (i) => part(read({ from: 'attribute', attribute }, i) / full)
  return () => 1
}

/** 0–255 by the sRGB transfer (IEC 61966-2-1). */
export const encodeSrgb = (linear: number): number =>
  Math.round(Math.min(1, Math.max(0, srgbPart(linear))) * 255)
export const srgbBytes = (linear: Float32Array): Uint8Array => Uint8Array.from(linear, encodeSrgb)
