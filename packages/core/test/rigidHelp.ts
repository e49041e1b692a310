import { createMachine } from '@tangle/kernels'
import manifoldModule, { type ManifoldToplevel } from 'manifold-3d'
import {
  createSimulation,
  derive,
  readyFor,
  sourceKey,
  underived,
  weld,
  type Mesh,
  type Shot,
  type Simulation,
} from '../src/index.ts'
import { ASSET, box, shotOf } from './help.ts'

let module: ManifoldToplevel | undefined
export async function manifold(): Promise<ManifoldToplevel> {
  if (!module) {
    module = await manifoldModule()
    module.setup()
  }
  return module
}

type Loose = Record<string, unknown>

/** A shot of a mesh (a box, or as given) and what is made of it, with one population of its pieces. */
export function brokenShot(fracture: Loose, population: Loose, rest: Loose = {}, place: Loose = {}): Shot {
  const { meshes = [], ...more } = rest
  const pieces = {
    id: 'bits',
    phases: ['Held', 'Free'],
    particle: { density: 1000 },
    births: [{ id: 'b', kind: 'pieces', mesh: 'broken', into: 'Free', amount: { burst: 'all', at: 1 } }],
    look: { draw: 'pieces' },
  }
  return shotOf(
    { ...pieces, ...population },
    {
      meshes: [
        { id: 'box', source: { asset: ASSET }, place },
        { id: 'broken', source: { fracture: { mesh: 'box', ...fracture } } },
        ...(meshes as Loose[]),
      ],
      ...more,
    },
  )
}

/** Its meshes, with those that have to be made. */
export async function meshesOf(
  shot: Shot,
  whole: Mesh = box(),
  others: Record<string, Mesh> = {},
): Promise<Map<string, Mesh>> {
  const meshes = new Map([[ASSET, whole], ...Object.entries(others)])
  const tools = { manifold: await manifold(), machine: createMachine() }
  for (const mesh of underived(shot, meshes))
    meshes.set(sourceKey(mesh.source, shot), derive(tools, shot, mesh, meshes))
  return meshes
}

export async function simulate(shot: Shot, meshes: Map<string, Mesh>, options = {}): Promise<Simulation> {
  await readyFor(shot)
  return createSimulation(createMachine(), shot, meshes, options)
}

/** A mesh of the library of solids, welded. */
export async function solid(
  make: (of: ManifoldToplevel['Manifold']) => {
    getMesh(): { vertProperties: Float32Array; triVerts: Uint32Array }
  },
): Promise<Mesh> {
  const made = make((await manifold()).Manifold).getMesh()
  return weld({ positions: made.vertProperties.slice(), triangles: made.triVerts.slice() })
}
