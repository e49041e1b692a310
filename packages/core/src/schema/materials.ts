/**
 * Materials: what grains of them weigh and how they hold one another. Friction here is that of balls which slide but do
 * not roll, chosen so that a poured heap lies at the material's angle of repose (see core/test/bundle.test.ts); of
 * rubber and jelly it is the coefficient itself. Stickiness is cohesion over density and the size of a clump, and common
 * practice, no source, where none is named.
 */
import { MESH_CONTACTS } from '../constraints/meshContacts.ts'
import { PARTICLE_CONTACTS } from '../constraints/particleContacts.ts'
import type { Influence, Population } from '../document/types.ts'
import { influenceKind } from '../registry.ts'

export interface Material {
  id: string
  label: string
  /** kg/m³, of the grain itself; of snow, ash, rubber and jelly of the stuff as it lies. */
  density: number
  friction: number
  sliding: number
  /** m/s² */
  sticky: number
  bounce: number
  /** Degrees; null where it makes no heaps. */
  repose: number | null
  source: string
}

const REPOSE = 'angle of repose: Glover, "Pocket Ref" (2006), from memory'

export const MATERIALS: Material[] = [
  {
    id: 'dry-sand',
    label: 'Dry sand',
    density: 2650,
    friction: 0.335,
    sliding: 0.305,
    sticky: 0,
    bounce: 0.1,
    repose: 34,
    source: `quartz 2650 kg/m³: CRC Handbook of Chemistry and Physics, from memory; ${REPOSE}`,
  },
  {
    id: 'wet-sand',
    label: 'Wet sand',
    density: 2650,
    friction: 0.415,
    sliding: 0.375,
    sticky: 15,
    bounce: 0,
    repose: 45,
    source: `quartz as dry sand; ${REPOSE}`,
  },
  {
    id: 'powder-snow',
    label: 'Powder snow',
    density: 100,
    friction: 0.37,
    sliding: 0.335,
    sticky: 4,
    bounce: 0,
    repose: 38,
    source: `50 to 100 kg/m³ new, dry: Paterson, "The Physics of Glaciers" (1994), table 2.1, from memory; ${REPOSE}`,
  },
  {
    id: 'wet-snow',
    label: 'Wet snow',
    density: 300,
    friction: 0.53,
    sliding: 0.48,
    sticky: 20,
    bounce: 0,
    repose: 50,
    source: '200 to 400 kg/m³: Paterson, "The Physics of Glaciers" (1994), table 2.1, from memory',
  },
  {
    id: 'gravel',
    label: 'Gravel',
    density: 2700,
    friction: 0.37,
    sliding: 0.335,
    sticky: 0,
    bounce: 0.2,
    repose: 38,
    source: `granite 2700 kg/m³: CRC Handbook, from memory; crushed stone 35° to 45°: ${REPOSE}`,
  },
  {
    id: 'salt',
    label: 'Salt',
    density: 2165,
    friction: 0.305,
    sliding: 0.275,
    sticky: 0,
    bounce: 0.1,
    repose: 32,
    source: 'halite 2165 kg/m³: CRC Handbook, from memory; 32°: common practice, no source',
  },
  {
    id: 'ash',
    label: 'Ash',
    density: 700,
    friction: 0.385,
    sliding: 0.35,
    sticky: 2,
    bounce: 0,
    repose: 40,
    source: `dry ashes 570 to 650 kg/m³ and 40°: ${REPOSE}`,
  },
  {
    id: 'rubber',
    label: 'Rubber',
    density: 1100,
    friction: 0.9,
    sliding: 0.8,
    sticky: 0,
    bounce: 0.75,
    repose: null,
    source: 'natural rubber 920 to 1200 kg/m³, μ on dry concrete 0.6 to 0.85: CRC Handbook, from memory',
  },
  {
    id: 'jelly',
    label: 'Jelly',
    density: 1050,
    friction: 0.3,
    sliding: 0.25,
    sticky: 3,
    bounce: 0.1,
    repose: null,
    source: 'gelatine in water, a little denser than water: common practice, no source',
  },
]

/** The constraints that have friction. */
const TOUCHING: unknown[] = [MESH_CONTACTS, PARTICLE_CONTACTS]

type OfMaterial = Pick<Population, 'material'>

/** What of a contact is a material's. */
const GRIP = ['friction', 'sliding', 'sticky', 'bounce'] as const

/** Grains of a material: the population with its density, and the friction of all that its particles touch. */
export function madeOf(population: Population, material: Material): Population {
  const made = {
    ...population,
    material: material.id,
    particle: { ...population.particle, density: material.density },
  }
  return { ...made, influences: population.influences.map((one) => ({ ...one, ...gripFor(made, one) })) }
}

/** The material that a contact of a population follows; undefined for other influences, and where the population is of none. */
const materialOf = ({ material }: OfMaterial, { kind }: Influence): Material | undefined =>
  TOUCHING.includes(influenceKind(kind).constraint) ? MATERIALS.find(({ id }) => id === material) : undefined

/** What an influence gets of the population's material; nothing unless it is a contact. */
export function gripFor(population: OfMaterial, influence: Influence): Partial<Influence> {
  const material = materialOf(population, influence)
  return material ? Object.fromEntries(GRIP.map((name) => [name, material[name]])) : {}
}

/** The material whose a contact's values are, and the parameters that have values of their own; null where no material counts. */
export function gripOf(
  population: OfMaterial,
  influence: Influence,
): { material: Material; own: string[] } | null {
  const material = materialOf(population, influence)
  return material
    ? {
        material,
        own: GRIP.filter((name) => influence[name] !== undefined && influence[name] !== material[name]),
      }
    : null
}
