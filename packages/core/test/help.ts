import { createMachine } from '@tangle/kernels'
import {
  createSimulation,
  readShot,
  weld,
  type Check,
  type Mesh,
  type Shot,
  type Simulation,
} from '../src/index.ts'

export const ASSET = `sha256:${'0'.repeat(64)}`

/** A closed box from −½ to ½, scaled. */
export function box(x = 1, y = 1, z = 1): Mesh {
  const corners = [0, 1, 2, 3, 4, 5, 6, 7].flatMap((i) => [
    ((i & 1) - 0.5) * x,
    (((i >> 1) & 1) - 0.5) * y,
    (((i >> 2) & 1) - 0.5) * z,
  ])
  const sides = [
    [0, 2, 3, 1],
    [4, 5, 7, 6],
    [0, 1, 5, 4],
    [2, 6, 7, 3],
    [0, 4, 6, 2],
    [1, 3, 7, 5],
  ]
  return weld({
    positions: new Float32Array(corners),
    triangles: new Uint32Array(sides.flatMap(([a, b, c, d]) => [a!, b!, c!, a!, c!, d!])),
  })
}

type Loose = Record<string, unknown>
/** A shot with one population over one mesh; `population` overrides parts of it. */
export function shotOf(population: Loose, rest: Loose = {}): Shot {
  const read = readShot({
    format: 'tangle-shot',
    version: 1,
    name: 'Test',
    frames: { first: 1, last: 240, rate: 24 },
    seed: 3,
    meshes: [{ id: 'box', source: { asset: ASSET } }],
    populations: [
      { id: 'dust', phases: ['Loose'], particle: { radius: 0.01, density: 1000 }, ...population },
    ],
    ...rest,
  })
  if (read.problems) throw new Error(JSON.stringify(read.problems))
  return read.shot
}
export const burst = (more: Loose = {}): Loose => ({
  id: 'b',
  kind: 'surface',
  mesh: 'box',
  into: 'Loose',
  amount: { burst: 1000, at: 1 },
  inherit: 0,
  ...more,
})
export const acting = (kind: string, more: Loose = {}): Loose => ({
  id: kind,
  kind,
  weights: { Loose: 1 },
  ...more,
})

/** `mesh` stands for ASSET, unless several are given by their names. */
export function start(shot: Shot, mesh: Mesh | Map<string, Mesh> = box(), share = 1): Simulation {
  const meshes = mesh instanceof Map ? mesh : new Map([[ASSET, mesh]])
  return createSimulation(createMachine(), shot, meshes, { share })
}
export function runTo<S extends Simulation>(simulation: S, frame: number): S {
  while (simulation.frame < frame) simulation.advance()
  return simulation
}
/** A column of the first population, copied. */
export const column = (simulation: Simulation, name: string): number[] =>
  Array.from(simulation.populations()[0]!.columns[name as 'position']!)

/** A ball of radius 1, of `rings`² quads. */
export function sphere(rings: number): Mesh {
  const positions: number[] = []
  const triangles: number[] = []
  for (let i = 0; i <= rings; i++) {
    for (let k = 0; k < rings; k++) {
      const [a, b] = [(Math.PI * i) / rings, (2 * Math.PI * k) / rings]
      positions.push(Math.sin(a) * Math.sin(b), Math.cos(a), Math.sin(a) * Math.cos(b))
      const [p, q] = [i * rings + k, i * rings + ((k + 1) % rings)]
      if (i < rings) triangles.push(p, p + rings, q + rings, p, q + rings, q)
    }
  }
  return weld({ positions: new Float32Array(positions), triangles: new Uint32Array(triangles) })
}

/** A set of points, for births on its vertices. */
/** A level square of n × n cells, so wide, at a height. */
export function sheet(n: number, wide: number, y = 0): Mesh {
  const corners = Array.from(
    { length: (n + 1) ** 2 },
    (_, k) => [Math.floor(k / (n + 1)), k % (n + 1)] as const,
  )
  const cells = corners.filter(([i, j]) => i < n && j < n).map(([i, j]) => i * (n + 1) + j)
  return {
    positions: Float32Array.from(
      corners.flatMap(([i, j]) => [(i / n - 0.5) * wide, y, (j / n - 0.5) * wide]),
    ),
    triangles: Uint32Array.from(cells.flatMap((a) => [a, a + 1, a + n + 1, a + 1, a + n + 2, a + n + 1])),
  }
}
export const points = (...places: number[][]): Mesh =>
  weld({ positions: new Float32Array(places.flat()), triangles: new Uint32Array() })
export const asset = (n: number): string => `sha256:${String(n).repeat(64)}`
export const all = (mesh: string, more = {}) => ({
  id: mesh,
  kind: 'vertices',
  mesh,
  into: 'Loose',
  amount: { burst: 'all', at: 1 },
  inherit: 0,
  ...more,
})
/** Particles at the points of some meshes, `a`, `b` and so on. */
export function scene(meshes: Mesh[], population: object, quality = {}, rest = {}): Simulation {
  const names = meshes.map((_, n) => 'abcd'[n]!)
  const shot = shotOf({ births: names.map((name) => all(name)), ...population } as never, {
    quality: { substeps: 10, ...quality },
    meshes: names.map((id, n) => ({ id, source: { asset: asset(n) } })),
    ...rest,
  })
  return start(shot, new Map(meshes.map((mesh, n) => [asset(n), mesh])))
}

/** The shot with the edits of a mend; it must still be a shot. */
export function mended(shot: Shot, { mend }: Check): Shot {
  const after = structuredClone(shot)
  for (const { path, value } of mend!.edits) {
    const holder = path
      .slice(0, -1)
      .reduce<Record<string, unknown>>((at, key) => at[key] as never, after as never)
    holder[path.at(-1)!] = value
  }
  const read = readShot(after)
  expect(read.problems).toBeUndefined()
  return read.shot!
}
