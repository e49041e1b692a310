import { createMachine } from '@tangle/kernels'
import {
  createSimulation,
  derivedFrom,
  meshFacts,
  needsRigidBodies,
  readyFor,
  sourceKey,
  weld,
  type Mesh,
  type MeshSource,
  type Shot,
} from '@tangle/core'
import { readMesh } from '@tangle/formats'
import { makeDerived, makeText } from '@tangle/runtime/node'
import manifoldModule from 'manifold-3d'
import { demoAssets, demoShots } from '../src/index.ts'

const meshes = new Map<string, Mesh>()
beforeAll(async () => {
  for (const asset of demoAssets()) meshes.set(asset.id, await readMesh(asset.file, asset.bytes))
})

/** Plausible real sizes: height in metres. */
const HEIGHTS: Record<string, [number, number]> = {
  lighthouse: [8, 12],
  lantern: [0.3, 0.4],
  bell: [0.35, 0.45],
  'bell-wall': [0.3, 0.4],
  clapper: [0.35, 0.45],
  'fog-bank': [1.4, 1.6],
  'sign-board': [2, 3],
  'net-float': [0.29, 0.33],
  'paper-boat': [0.15, 0.2],
  'paper-heron': [0.4, 0.5],
  figurehead: [1.4, 1.6],
  quay: [1.9, 2.1],
  'steep-shed': [5, 6],
  'flat-shed': [2.8, 3.2],
  crate: [1, 1.1],
  plank: [0.39, 0.41],
  jelly: [0.1, 0.12],
  oar: [0.55, 0.7],
  bollard: [0.6, 0.65],
  sky: [0, 0],
  ground: [0.19, 0.21],
  'glass-float': [0.55, 0.57],
  'float-rope': [0.6, 0.7],
  davit: [2.2, 2.4],
  slipway: [0.25, 0.3],
  trestle: [2.2, 2.4],
  tub: [0.4, 0.45],
  kettle: [0.24, 0.26],
  'storm-glass': [0.21, 0.22],
  'glass-tank': [0.49, 0.51],
  barrel: [0.23, 0.25],
  bung: [0.01, 0.03],
  gimbal: [0.26, 0.28],
  stove: [0.49, 0.51],
  stones: [0.1, 0.12],
  rivet: [0.08, 0.1],
  nut: [0.02, 0.03],
  washer: [0.005, 0.01],
  wreck: [2.9, 3.4],
  sounder: [0.15, 0.17],
  hair: [0.3, 0.9],
}

test('every shape of Heron Quay is closed and of a plausible size; the sky is a sheet on purpose', () => {
  expect([...meshes.keys()].sort()).toEqual(Object.keys(HEIGHTS).sort())
  for (const [id, mesh] of meshes) {
    const facts = meshFacts(weld(mesh))
    expect([id, facts.openEdges > 0]).toEqual([id, id === 'sky'])
    const height = facts.high[1] - facts.low[1]
    expect(height).toBeGreaterThanOrEqual(HEIGHTS[id]![0])
    expect(height).toBeLessThanOrEqual(HEIGHTS[id]![1])
  }
})

test('every shape faces outward: its signed volume is positive', () => {
  for (const [id, { positions: p, triangles }] of meshes) {
    if (id === 'sky') continue
    let volume = 0
    for (let t = 0; t < triangles.length; t += 3) {
      const [a, b, c] = [0, 1, 2].map((k) => triangles[t + k]! * 3) as [number, number, number]
      volume +=
        (p[a]! * (p[b + 1]! * p[c + 2]! - p[b + 2]! * p[c + 1]!) +
          p[a + 1]! * (p[b + 2]! * p[c]! - p[b]! * p[c + 2]!) +
          p[a + 2]! * (p[b]! * p[c + 1]! - p[b + 1]! * p[c]!)) /
        6
    }
    expect([id, volume > 0]).toEqual([id, true])
  }
})

/** At which frame something must have happened, and how many particles are then there at least. */
const LIVELY: Record<string, [frame: number, least: number]> = {
  'the-bell-and-the-fog': [34, 40],
  'beacon-to-dust': [50, 100],
  'ferry-queue': [40, 8],
  'first-snow-on-the-sheds': [24, 50],
  'ink-on-the-figurehead': [40, 20],
  'jelly-and-the-oar': [20, 50],
  'letters-full-of-floats': [60, 15],
  'the-float-that-mends': [60, 8],
  'tar-off-the-bollard': [40, 8],
  'rivets-on-the-slipway': [60, 8],
  'the-storm-glass': [24, 10],
  'oil-on-brine': [20, 100],
  'flares-over-the-harbour': [60, 3],
  'the-sounder-and-the-wreck': [60, 8],
  'wind-in-the-figurehead-s-hair': [60, 30],
}
const assetOf = (id: string): string => `sha256:${Buffer.from(id).toString('hex').padEnd(64, '0')}`

const inFewPieces = (source: MeshSource): MeshSource =>
  'fracture' in source
    ? { fracture: { ...source.fracture, pieces: 30 } }
    : 'shell' in source
      ? { shell: { ...source.shell, thickness: 0.06, detail: 1 } }
      : source

/** Whether a few bear many; a liquid is many, and bears where it splashes. */
const bears = ({ populations }: Shot): boolean =>
  populations.some(({ births }) =>
    births.some(
      ({ from, amount }) => from !== undefined && !('event' in amount && amount.event === 'splash'),
    ),
  )

/** Whether a spout pours, which is no narrower than a particle; those of fewer are wider. */
const pours = ({ populations }: Shot): boolean =>
  populations.some(({ births }) => births.some(({ kind }) => kind === 'pour'))

test('every shot runs, and its particles stay near', async () => {
  const manifold = await manifoldModule()
  manifold.setup()
  for (const { slug, shot } of demoShots(assetOf)) {
    await readyFor(shot)
    const named = new Map<string, Mesh>()
    for (const { source } of shot.meshes) {
      if (derivedFrom(source)) continue
      const key = sourceKey(source, shot)
      const id = [...meshes.keys()].find((one) => key === assetOf(one))
      named.set(key, 'text' in source ? await makeText(source.text) : meshes.get(id!)!)
    }
    const [last, least] = LIVELY[slug] ?? [40, 100]
    // triangles as they come, and few pieces: enough to see that it runs
    const light = { ...shot, meshes: shot.meshes.map((mesh) => ({ ...mesh, detail: 1e4, source: inFewPieces(mesh.source) })) } // prettier-ignore
    for (const { key, mesh } of makeDerived(manifold, light, named)) named.set(key, mesh)
    const simulation = createSimulation(createMachine(), light, named, {
      share: bears(shot) ? 1 : needsRigidBodies(shot) ? 0.5 : pours(shot) ? 0.25 : 0.05,
    })
    while (simulation.frame < last) simulation.advance()
    const { populations, meshes: eaten } = simulation.measures()
    expect([slug, populations[0]!.alive > least, populations[0]!.astray]).toEqual([slug, true, 0])
    if (bears(shot)) for (const { alive } of populations.slice(1)) expect(alive).toBeGreaterThan(100)
    for (const { swept, left, area } of eaten) {
      expect([slug, swept > 0 && left > 0]).toEqual([slug, true])
      expect(swept + left).toBeCloseTo(area, 6)
    }
    simulation.dispose()
  }
}, 180_000)
