/** The space that files are written in: its unit of length and which way is up. Tangle's own is metres, Y up. */
import type { PopulationFrame, Shot } from '@tangle/core'
import type { CachedFrame } from '../frames/cachedFrame.ts'

/** Metres of each unit. */
export const UNITS = { m: 1, cm: 0.01, mm: 0.001, in: 0.0254, ft: 0.3048 } as const
export type Unit = keyof typeof UNITS
export const UPS = ['y', 'z'] as const
export interface Space {
  unit: Unit
  up: (typeof UPS)[number]
}
export const OUR_SPACE: Space = { unit: 'm', up: 'y' }

const UNIT_WORDS: Record<Unit, string> = {
  m: 'metres',
  cm: 'centimetres',
  mm: 'millimetres',
  in: 'inches',
  ft: 'feet',
}
/** For the head of a file. */
export const spaceInWords = ({ unit, up }: Space): string =>
  `${UNIT_WORDS[unit]}, ${UNIT_WORDS[unit]} per second, ${up.toUpperCase()} up`

export const isOurs = ({ unit, up }: Space): boolean => unit === OUR_SPACE.unit && up === OUR_SPACE.up
const perMetre = ({ unit }: Space): number => 1 / UNITS[unit]

/** Places or velocities, x y z. */
export const vectorsIn = (space: Space, values: Float32Array): Float32Array =>
  turnedInto(space, values, perMetre(space))
/** Vectors whose length is no length, such as angular velocities. */
const axesIn = (space: Space, values: Float32Array): Float32Array => turnedInto(space, values, 1)

/** Times k; Y up becomes Z up by a quarter turn about x. */
function turnedInto({ up }: Space, values: Float32Array, k: number): Float32Array {
  if (up === 'y') return values.map((x) => x * k)
  const out = new Float32Array(values.length)
  for (let i = 0; i < values.length; i += 3) {
    out[i] = values[i]! * k
    out[i + 1] = -values[i + 2]! * k
    out[i + 2] = values[i + 1]! * k
  }
  return out
}
/** Lengths, or the same turned back into metres. */
export const lengthsIn = (space: Space, values: Float32Array): Float32Array =>
  values.map((x) => x * perMetre(space))
export const metresIn = ({ unit }: Space, length: number): number => length * UNITS[unit]

/** Where places are turned, the axis of a turn (x y z w) is turned as they are. */
function turnsIn({ up }: Space, values: Float32Array): Float32Array {
  if (up === 'y') return values
  const out = values.slice()
  for (let i = 0; i < values.length; i += 4) {
    out[i + 1] = -values[i + 2]!
    out[i + 2] = values[i + 1]!
  }
  return out
}

/** A frame in a space. */
export function frameIn(space: Space, frame: CachedFrame): CachedFrame {
  if (isOurs(space)) return frame
  return {
    ...frame,
    populations: frame.populations.map((one) => populationIn(space, one)),
    meshes: frame.meshes.map((one) => ({
      ...one,
      positions: vectorsIn(space, one.positions),
      ...(one.velocities ? { velocities: vectorsIn(space, one.velocities) } : {}),
      ...(one.columns?.travelled
        ? { columns: { ...one.columns, travelled: lengthsIn(space, one.columns.travelled) } }
        : {}),
    })),
  }
}

function populationIn(space: Space, population: PopulationFrame): PopulationFrame {
  const columns = { ...population.columns } as Record<string, Float32Array>
  const change = (names: string[], by: (space: Space, values: Float32Array) => Float32Array): void => {
    for (const name of names) if (columns[name]) columns[name] = by(space, columns[name])
  }
  change(['position', 'velocity'], vectorsIn)
  change(['radius', 'travelled'], lengthsIn)
  change(['orientation'], turnsIn)
  change(['angularVelocity'], axesIn)
  return { ...population, columns }
}

/** A shot whose look reads and draws lengths of a space. */
export function shotIn(space: Space, shot: Shot): Shot {
  if (isOurs(space)) return shot
  const k = perMetre(space)
  return {
    ...shot,
    populations: shot.populations.map((population) => {
      const { colour, trail, glow } = population.look
      const isLength = colour.from === 'speed' || colour.from === 'travelled'
      const range: [number, number] = [colour.range[0] * k, colour.range[1] * k]
      return {
        ...population,
        look: {
          ...population.look,
          colour: isLength ? { ...colour, range } : colour,
          glow: glow && { ...glow, speed: glow.speed * k },
          trail: trail && { ...trail, width: trail.width * k, widthEnd: trail.widthEnd * k },
        },
      }
    }),
  }
}
