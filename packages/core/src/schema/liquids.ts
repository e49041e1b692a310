/** Liquids: what they weigh, how thick they are and how their surfaces pull. At 20 °C where it is not said. */
import type { Population } from '../document/types.ts'
import { liquid } from '../influences/liquid.ts'
import { completeInfluence } from './complete.ts'

export interface LiquidMaterial {
  id: string
  label: string
  /** kg/m³ */
  density: number
  /** Pa·s */
  viscosity: number
  /** N/m; contact angles are of the wall as much. */
  tension: number
  source: string
}

const CRC = 'CRC Handbook of Chemistry and Physics, from memory'

export const LIQUIDS: LiquidMaterial[] = [
  { id: 'water', label: 'Water', density: 998, viscosity: 0.001, tension: 0.0728, source: CRC },
  { id: 'brine', label: 'Brine', density: 1197, viscosity: 0.002, tension: 0.083, source: `26 % of salt by mass: ${CRC}` },
  { id: 'lamp-oil', label: 'Lamp oil', density: 800, viscosity: 0.0016, tension: 0.028, source: `kerosene 780 to 820 kg/m³: ${CRC}` },
  { id: 'olive-oil', label: 'Olive oil', density: 911, viscosity: 0.084, tension: 0.032, source: CRC },
  { id: 'glycerine', label: 'Glycerine', density: 1261, viscosity: 1.41, tension: 0.063, source: CRC },
  { id: 'honey', label: 'Honey', density: 1420, viscosity: 10, tension: 0.06, source: '2 to 20 Pa·s by its water: common practice, no source' },
  { id: 'tar-hot', label: 'Tar at 80 °C', density: 1150, viscosity: 20, tension: 0.028, source: 'common practice, no source' },
  { id: 'tar', label: 'Tar', density: 1180, viscosity: 30000, tension: 0.03, source: 'common practice, no source' },
  { id: 'wax', label: 'Melted wax', density: 780, viscosity: 0.004, tension: 0.027, source: 'paraffin at 70 °C: common practice, no source' },
  { id: 'mercury', label: 'Mercury', density: 13546, viscosity: 0.00155, tension: 0.487, source: CRC },
] // prettier-ignore

/** The population as a liquid: of one size, without an end, with its density, viscosity and tension, and Liquid in all phases if it had none. */
export function liquidOf(
  population: Population,
  { id: material, density, viscosity, tension }: LiquidMaterial,
): Population {
  const { influences, phases, particle } = population
  const has = influences.some(({ kind }) => kind === liquid.kind)
  const id = influences.some((one) => one.id === liquid.kind) ? `${liquid.kind}2` : liquid.kind
  const weights = Object.fromEntries(phases.map((phase) => [phase, 1]))
  const radius = typeof particle.radius === 'number' ? particle.radius : particle.radius.mean
  return {
    ...population,
    material,
    particle: { ...particle, density, radius, lifespan: null },
    influences: has
      ? influences.map((one) => (one.kind === liquid.kind ? { ...one, viscosity, tension } : one))
      : [...influences, completeInfluence({ id, kind: liquid.kind, weights, viscosity, tension }, phases)],
  }
}
