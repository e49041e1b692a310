/** What the table of attributes (attributes.ts) says of one of them, and the entries that artists add. */

/**
 * How near a number that is kept compactly comes: all bits; as a place, the velocity or the length of a way, to a share of what the population
 * spans (per second, for velocities); as a time, to a share of a frame; to a share of itself; or to an error in its unit.
 */
export type Kept =
  'exact' | 'place' | 'velocity' | 'distance' | 'time' | { share: number } | { error: number }

/** One attribute: `width` numbers for each particle. */
export interface Attribute {
  type: 'f32' | 'u32'
  width: number
  unit: string
  /** What it is for, in one line. */
  does: string
  /** State is hashed, saved and handed out; memory is saved for the next substep; scratch lasts for one. */
  role: 'state' | 'memory' | 'scratch'
  /** `always`: every population has it; `asked`: where a rule reads or writes it. */
  exists: 'always' | 'asked'
  /** What a particle is born with; null: emission gives it (simulation/spawn.ts). */
  start: readonly number[] | null
  /** How frames keep it where they are compact. Without it they do not. */
  frames?: Kept
  /** What an artist chooses to keep it by (words of the document); without it frames always keep it. */
  keep?: string
  /** What open formats call it, part by part in PLY. */
  files?: { ply: readonly string[]; usd: string; vtk: string }
  /** How tables, charts and looks name its parts; without it they do not offer it. */
  shown?: readonly string[]
}

/** A number that a rule tells of particles, in files and tables by its name. */
export const told = (name: string, unit: string, does: string, frames: Kept, keep: string): Attribute => ({
  ...{ type: 'f32', width: 1, unit, does, role: 'state', exists: 'asked', start: [0], frames, keep },
  files: { ply: [name], usd: `float[] primvars:${name}`, vtk: name },
  shown: [name],
})

/** The name of an attribute that an artist added, by its id. */
export type OwnName = `own.${string}`
export const ownName = (id: string): OwnName => `own.${id}`
/** The id of an artist's own attribute; null for those that Tangle has. */
export const ownId = (name: string): string | null => (name.startsWith('own.') ? name.slice(4) : null)

/** What a birth keeps with each of its parents: by how many births it is ahead or the events that it heard of, and how many it bore. */
export type OffspringName = `offspring.${string}`
export const offspringName = (population: string, birth: string): OffspringName =>
  `offspring.${population}.${birth}`
export const OFFSPRING: Attribute = {
  type: 'f32',
  width: 2,
  unit: '',
  does: 'births that it owes, with their fraction, or events; and births done',
  role: 'memory',
  exists: 'asked',
  // it has not begun to owe any
  start: [-1, 0],
}

/** Types of the attributes that an artist adds, and how many numbers each has. Whole numbers are exact to 2²⁴. */
export const OWN_WIDTHS = { number: 1, whole: 1, vector: 3, colour: 3 } as const
export type OwnType = keyof typeof OWN_WIDTHS

/** An artist's own attribute as an entry of the table. */
export function ownAttribute({
  id,
  name,
  type,
  unit,
}: {
  id: string
  name: string
  type: OwnType
  unit: string
}): Attribute {
  const width = OWN_WIDTHS[type]
  const parts = { number: [''], whole: [''], vector: ['_x', '_y', '_z'], colour: ['_r', '_g', '_b'] }[type]
  const usd = { number: 'float', whole: 'int', vector: 'float3', colour: 'color3f' }[type]
  return {
    type: 'f32',
    width,
    unit,
    does: name,
    role: 'state',
    exists: 'asked',
    start: null,
    frames: 'exact',
    keep: id,
    files: { ply: parts.map((part) => `${id}${part}`), usd: `${usd}[] primvars:${id}`, vtk: id },
    shown: parts.map((part) => `${name}${part.replace('_', ' ')}`),
  }
}
