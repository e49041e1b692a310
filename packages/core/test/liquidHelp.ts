/** Liquids in tanks, for tests. */
import { createMachine } from '@tangle/kernels'
import { createSimulation, type Mesh, type Shot, type Simulation } from '../src/index.ts'
import { acting, asset, box, column, shotOf } from './help.ts'

export const G = 9.80665

export interface Tank {
  /** Meshes: the tank first, and where the liquid is if not in the tank. */
  meshes: Mesh[]
  /** Of the meshes, by number. */
  places?: Record<number, object>
  /** Width of a particle, m. */
  width: number
  liquid?: object
  births?: object[]
  influences?: object[]
  gravity?: object
  side?: string
  density?: number
  quality?: object
  rate?: number
  frames?: number
  share?: number
  populations?: object[]
}

const NAMES = ['tank', 'body', 'third', 'fourth']

/** The document of a liquid in a tank. */
export function tankShot(tank: Tank): Shot {
  const { meshes, places = {}, width, liquid = {}, births, influences = [], gravity = {} } = tank
  const own = {
    particle: { radius: width / 2, density: tank.density ?? 1000 },
    births: births ?? [filling(meshes.length > 1 ? 'body' : 'tank', meshes.length > 1 ? 1 : 0.6)],
    influences: [
      acting('gravity', gravity),
      acting('liquid', liquid),
      acting('collide', { mesh: 'tank', side: tank.side ?? 'inside' }),
      ...influences,
    ],
  }
  return shotOf(own, {
    frames: { first: 1, last: tank.frames ?? 2000, rate: tank.rate ?? 24 },
    quality: tank.quality ?? { level: 'good' },
    meshes: meshes.map((_, n) => ({ id: NAMES[n], source: { asset: asset(n) }, ...(places[n] ? { place: places[n] } : {}) })), // prettier-ignore
    ...(tank.populations ? { populations: tank.populations } : {}),
  })
}
export const filling = (mesh: string, level = 1, more: object = {}): object => ({
  id: 'f',
  kind: 'fill',
  mesh,
  into: 'Loose',
  level,
  amount: { burst: 'all', at: 1 },
  inherit: 0,
  ...more,
})
export const startTank = (tank: Tank): Simulation =>
  createSimulation(createMachine(), tankShot(tank), new Map(tank.meshes.map((mesh, n) => [asset(n), mesh])), {
    share: tank.share ?? 1,
  })

/** A closed box with a floor at 0 and one corner there: x, y and z from 0 on. */
export function basin(x: number, y: number, z: number): Mesh {
  const made = box(x, y, z)
  return { ...made, positions: made.positions.map((at, k) => at + [x, y, z][k % 3]! / 2) }
}

export const heights = (simulation: Simulation): number[] =>
  column(simulation, 'position').filter((_, k) => k % 3 === 1)
export const mean = (values: number[]): number => values.reduce((sum, one) => sum + one, 0) / values.length
export const rmsSpeed = (simulation: Simulation): number => {
  const v = column(simulation, 'velocity')
  return Math.sqrt((3 * v.reduce((sum, one) => sum + one * one, 0)) / v.length)
}
