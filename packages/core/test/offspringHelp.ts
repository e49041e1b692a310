/** Shots in which particles bear others: "parents" of a mesh, and "wake" of those. */
import { readShot, type Mesh, type Shot, type Simulation, type Vector } from '../src/index.ts'
import { ASSET, asset, box, start } from './help.ts'

type Loose = Record<string, unknown>
export const G = 9.80665

export interface Family {
  parents?: Loose
  wake?: Loose
  /** Of the birth of the wake. */
  bears?: Loose
  rest?: Loose
}

/** Parents are born at the vertices of a mesh at frame 1; their wake has no influences and stays where it is born. */
export function familyOf({ parents = {}, wake = {}, bears = {}, rest = {} }: Family): unknown {
  const small = { particle: { radius: 0.01, density: 1000 }, phases: ['Loose'] }
  const { meshes = [], ...more } = rest
  return {
    format: 'tangle-shot',
    version: 1,
    name: 'Test',
    frames: { first: 1, last: 480, rate: 24 },
    seed: 3,
    meshes: [{ id: 'box', source: { asset: ASSET } }, ...(meshes as Loose[])],
    populations: [
      {
        id: 'parents',
        ...small,
        births: [
          { id: 'b', kind: 'vertices', mesh: 'box', into: 'Loose', amount: { burst: 'all', at: 1 }, inherit: 0 },
        ],
        ...parents,
      },
      {
        id: 'wake',
        ...small,
        births: [
          { id: 'w', kind: 'particles', from: 'parents', into: 'Loose', amount: { spacing: 0.25 }, ...bears },
        ],
        ...wake,
      },
    ],
    ...more,
  } // prettier-ignore
}

export function family(given: Family): Shot {
  const read = readShot(familyOf(given))
  if (read.problems) throw new Error(JSON.stringify(read.problems))
  return read.shot
}

/** `mesh` stands for what parents are born on, `others` for assets 1, 2 … */
export const run = (shot: Shot, mesh: Mesh = box(), others: Mesh[] = [], share = 1): Simulation =>
  start(shot, new Map([[ASSET, mesh], ...others.map((one, n): [string, Mesh] => [asset(n + 1), one])]), share)

export interface One {
  id: number
  parent: number
  generation: number
  position: Vector
  velocity: Vector
  age: number
  radius: number
}
/** Particles of a population, by default of the wake, one by one. */
export function ones(simulation: Simulation, id = 'wake'): One[] {
  const { count, columns } = simulation.populations().find((one) => one.id === id)!
  const at = (name: 'position' | 'velocity', i: number): Vector => [0, 1, 2].map((k) => columns[name]![i * 3 + k]!) as Vector // prettier-ignore
  return Array.from({ length: count }, (_, i) => ({
    id: columns.id![i]!,
    parent: columns.parent?.[i] ?? -1,
    generation: columns.generation?.[i] ?? -1,
    position: at('position', i),
    velocity: at('velocity', i),
    age: columns.age![i]!,
    radius: columns.radius![i]!,
  }))
}
export const acts = (kind: string, more: Loose = {}): Loose => ({ id: kind, kind, weights: { Loose: 1 }, ...more }) // prettier-ignore
export const distance = (a: Vector, b: Vector): number => Math.hypot(...a.map((x, k) => x - b[k]!))
