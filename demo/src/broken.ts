import { limb, lathe, moved, together } from './build.ts'
import type { Mesh } from '@tangle/core'
import type { DemoMesh } from './meshes.ts'
import { mesh, type DemoShot } from './shot.ts'

/** Middle of the float below the hook from which it hangs, and its radius, metres. */
const HANGS = 0.95
const RADIUS = 0.28
const WALL = 0.022

const arc = (radius: number): [number, number][] =>
  Array.from({ length: 41 }, (_, i): [number, number] => [
    radius * Math.sin((i / 40) * Math.PI),
    -radius * Math.cos((i / 40) * Math.PI),
  ])

/** A hollow net float of green glass, 56 cm wide; it hangs below the origin. */
function glassFloat(): Mesh {
  const hollow = lathe(arc(RADIUS - WALL), 72)
  const turned = {
    ...hollow,
    triangles: hollow.triangles.map((_, c, all) => all[c % 3 === 0 ? c : c + (c % 3 === 1 ? 1 : -1)]!),
  }
  const { uvs: _, ...inside } = turned
  const { uvs: __, ...outside } = lathe(arc(RADIUS), 72)
  return moved(together(outside, inside), [0, -HANGS, 0])
}

/** The rope from the hook to the float. */
const rope = (): Mesh =>
  lathe(
    [
      [0, RADIUS - HANGS + 0.005],
      [0.008, RADIUS - HANGS + 0.005],
      [0.008, 0],
      [0, 0],
    ],
    12,
  )

/** A davit of 2.3 m: its arm ends above the origin of the float. */
const davit = (): Mesh =>
  limb(
    [
      [-1, 0, 0.07, 0.07],
      [-1, 1.4, 0.06, 0.06],
      [-0.9, 1.95, 0.055, 0.055],
      [-0.62, 2.2, 0.05, 0.05],
      [-0.2, 2.28, 0.045, 0.045],
      [0.05, 2.28, 0.04, 0.04],
    ],
    14,
  )

export const BROKEN_MESHES: DemoMesh[] = [
  { id: 'glass-float', name: 'Glass float', make: glassFloat },
  { id: 'float-rope', name: 'Rope', make: rope },
  { id: 'davit', name: 'Davit', make: davit },
]

/** Swings about the hook: degrees about z and x. */
const swinging = (frames: number) => {
  const about = (angle: number, period: number, phase: number) => ({
    keys: Array.from({ length: Math.floor(frames / 6) + 2 }, (_, k) => [
      1 + 6 * k,
      Number((angle * Math.sin((2 * Math.PI * (6 * k + phase)) / period)).toFixed(2)),
      'smooth',
    ]),
  })
  return { position: [0, 2.25, 0], rotation: [about(5, 61, 12), 0, about(9, 49, 0)] }
}

/** A hanging glass float bursts; its pieces lie about, fly home to where it swings, and it is whole. */
export const float: DemoShot = {
  title: 'The float that mends',
  build: (asset) => {
    const swing = swinging(420)
    return {
      frames: { first: 1, last: 420, rate: 24 },
      seed: 5,
      meshes: [
        mesh(asset, 'davit', 'Davit'),
        mesh(asset, 'float-rope', 'Rope', swing),
        { ...mesh(asset, 'glass-float', 'Glass float', swing), visible: false },
        {
          id: 'shards',
          name: 'Float in pieces',
          source: { fracture: { mesh: 'glass-float', pieces: 350, seeds: 'random', seed: 4 } },
          visible: false,
        },
        mesh(asset, 'ground', 'Quay', { position: [0, -0.1, 0] }),
      ],
      populations: [
        {
          id: 'glass',
          name: 'Glass',
          phases: ['Whole', 'Loose', 'Homing', 'Home'],
          particle: { density: 2500, lifespan: null },
          births: [{ id: 'pieces', kind: 'pieces', mesh: 'shards', into: 'Whole', amount: { burst: 'all', at: 1 } }],
          cues: [
            { id: 'burst', from: 'Whole', to: 'Loose', when: { kind: 'after', frames: 30 } },
            { id: 'leave', from: 'Loose', to: 'Homing', when: { kind: 'after', frames: { mean: 150, spread: 90 } } },
            { id: 'home', from: 'Homing', to: 'Home', when: { kind: 'goal', distance: 0.00005 } },
          ],
          influences: [
            { id: 'ride', kind: 'ride', weights: { Whole: 1, Home: 1 } },
            { id: 'gravity', kind: 'gravity', weights: { Loose: 1 } },
            {
              id: 'burst',
              kind: 'attract',
              name: 'Burst',
              weights: { Loose: 1 },
              point: [0, 1.3, 0],
              falloff: 'none',
              strength: { keys: [[30, 0], [31, -38], [33, -38], [34, 0]] },
            },
            { id: 'body', kind: 'rigid', name: 'Glass', weights: { Loose: 1 }, bounce: 0.25, friction: 0.5, spinDamping: 0.3 },
            { id: 'bonds', kind: 'bonds', name: 'Glass holds', weights: { Loose: 1 }, bears: 11, varies: 0.6, blow: 0.02 },
            { id: 'floor', kind: 'floor', name: 'Quay', weights: { Loose: 1 }, bounce: 0.25, friction: 0.6 },
            { id: 'home', kind: 'dock', weights: { Homing: 1 }, speed: 1.6, ease: 0.8, turn: 200, within: 0.004 },
            { id: 'tint', kind: 'colour', name: 'Glass green', weights: { Whole: 1, Loose: 1, Homing: 1, Home: 1 }, ramp: { stops: [[0, '#47a07e'], [1, '#47a07e']] } },
          ],
          look: { draw: 'pieces', colour: { from: 'own', range: [0, 1], ramp: 'ember' } },
        },
      ],
      stage: {
        camera: { position: [2.1, 1.6, 2.7], target: [-0.1, 0.95, 0], fieldOfView: 40 },
        light: { bearing: 130, height: 50, strength: 1 },
        backdrop: 'dusk',
      },
    }
  },
} // prettier-ignore

/** A crust of old tar breaks away from a bollard and is carried off by a light wind. */
export const tar: DemoShot = {
  title: 'Tar off the bollard',
  build: (asset) => ({
    frames: { first: 1, last: 160, rate: 24 },
    seed: 8,
    meshes: [
      mesh(asset, 'bollard', 'Bollard'),
      {
        id: 'crust',
        name: 'Crust of tar',
        source: { shell: { mesh: 'bollard', gap: 0.002, thickness: 0.012, detail: 2.5 } },
        visible: false,
      },
      {
        id: 'flakes',
        name: 'Tar in pieces',
        source: { fracture: { mesh: 'crust', pieces: 1000, seeds: 'even', seed: 2 } },
        visible: false,
      },
      mesh(asset, 'ground', 'Quay', { position: [0, -0.1, 0] }),
    ],
    populations: [
      {
        id: 'tar',
        name: 'Tar',
        phases: ['Held', 'Loose'],
        particle: { density: 1200, lifespan: null },
        births: [{ id: 'pieces', kind: 'pieces', mesh: 'flakes', into: 'Held', amount: { burst: 'all', at: 1 } }],
        cues: [{ id: 'lets-go', from: 'Held', to: 'Loose', when: { kind: 'after', frames: { mean: 50, spread: 50 } } }],
        influences: [
          { id: 'ride', kind: 'ride', weights: { Held: 1 } },
          { id: 'gravity', kind: 'gravity', weights: { Loose: 0.25 } },
          { id: 'wind', kind: 'wind', weights: { Loose: 1 }, strength: 0.7, speed: 1.7, direction: [1, 0.15, 0.25] },
          { id: 'stir', kind: 'turbulence', name: 'Gusts', weights: { Loose: 1 }, strength: 2.2, scale: 0.5 },
          { id: 'body', kind: 'rigid', name: 'Flakes', weights: { Loose: 1 }, bounce: 0.3, friction: 0.3 },
          { id: 'bonds', kind: 'bonds', name: 'Tar holds', weights: { Loose: 1 }, bears: 6, varies: 0.7 },
          { id: 'bollard', kind: 'collide', mesh: 'bollard', weights: { Loose: 1 }, bounce: 0.3, friction: 0.3 },
          { id: 'floor', kind: 'floor', name: 'Quay', weights: { Loose: 1 }, bounce: 0.2, friction: 0.5 },
          { id: 'tint', kind: 'colour', name: 'Tar', weights: { Held: 1, Loose: 1 }, ramp: { stops: [[0, '#1b1718'], [1, '#4a3f3c']] }, responses: [{ to: 'at', from: 'random', curve: [[0, 0], [1, 1]] }] },
        ],
        look: { draw: 'pieces', colour: { from: 'own', range: [0, 1], ramp: 'ember' } },
      },
    ],
    stage: {
      camera: { position: [1.1, 0.7, 1.5], target: [0.2, 0.32, 0], fieldOfView: 42 },
      light: { bearing: 210, height: 45, strength: 1.1 },
      backdrop: 'dusk',
    },
  }),
} // prettier-ignore
