/** What colours each particle of a population on the stage, where that is more than its age, speed or way. */
import { isTold, type Look, type OwnAttribute } from '@tangle/core'
import { fromHalf, type PackedPopulation } from '@tangle/runtime/browser'

export interface Shades {
  /** Linear RGB of each, taken as they are. */
  colours: Float32Array | null
  /** A number of each, for the ramp of the look. */
  values: Float32Array | null
  /** A number of each, for the brightness of its glow. */
  brights: Float32Array | null
}

/** Lengths of vectors, three numbers each. */
const lengths = (vectors: Float32Array): Float32Array =>
  Float32Array.from({ length: vectors.length / 3 }, (_, i) =>
    Math.hypot(vectors[i * 3]!, vectors[i * 3 + 1]!, vectors[i * 3 + 2]!),
  )

/** By the colour that Colour influences give, or by an attribute of the population's own. */
export function shadesOf(population: PackedPopulation, look: Look, attributes: OwnAttribute[]): Shades {
  return { ...colouredBy(population, look, attributes), brights: brightnessOf(population, look, attributes) }
}

function brightnessOf(
  { own }: PackedPopulation,
  { glow }: Look,
  attributes: OwnAttribute[],
): Float32Array | null {
  const chosen = attributes.find(({ id }) => glow?.by === 'attribute' && id === glow.attribute)
  const values = chosen && own[chosen.id]
  if (!values) return null
  return chosen.type === 'vector' || chosen.type === 'colour' ? lengths(values) : values
}

type Coloured = Pick<Shades, 'colours' | 'values'>
function colouredBy(population: PackedPopulation, { colour }: Look, attributes: OwnAttribute[]): Coloured {
  if (colour.from === 'own') return { colours: population.colours, values: null }
  if (isTold(colour.from)) return { colours: null, values: population.told[colour.from] ?? null }
  const chosen = attributes.find(({ id }) => colour.from === 'attribute' && id === colour.attribute)
  const values = chosen && population.own[chosen.id]
  if (!chosen || !values) return { colours: null, values: null }
  if (chosen.type === 'colour') return { colours: values, values: null }
  return { colours: null, values: chosen.type === 'vector' ? lengths(values) : values }
}

/** What the ramp of a look reads of the i-th particle: its share of life, speed or way, or the number chosen. */
export function rampValueOf(
  { values }: PackedPopulation,
  { colour }: Look,
  shades: Shades,
): (i: number) => number {
  const chosen = shades.values
  if (chosen) return (i) => chosen[i]!
  const place = colour.from === 'speed' ? 2 : colour.from === 'travelled' ? 3 : 1
  return (i) => fromHalf(values[i * 4 + place]!)
}
