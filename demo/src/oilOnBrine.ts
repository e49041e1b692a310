import type { Mesh, Vector } from '@tangle/core'
import { lathe, loft } from './build.ts'
import { mesh, type DemoShot } from './shot.ts'

/** A glass tank, 80 × 50 × 40 cm with walls of 12 mm, open above. */
const tank = (): Mesh => {
  const rim = (wide: number, deep: number, y: number): Vector[] => [
    [-wide / 2, y, deep / 2],
    [wide / 2, y, deep / 2],
    [wide / 2, y, -deep / 2],
    [-wide / 2, y, -deep / 2],
  ]
  return loft([rim(0.8, 0.4, 0), rim(0.8, 0.4, 0.5), rim(0.776, 0.376, 0.5), rim(0.776, 0.376, 0.012)])
}

/** An oil barrel, 24 cm long, standing on its end at the origin. */
const barrel = (): Mesh =>
  lathe(
    [
      [0, 0],
      [0.07, 0],
      [0.074, 0.01],
      [0.085, 0.07],
      [0.09, 0.12],
      [0.085, 0.17],
      [0.074, 0.23],
      [0.07, 0.24],
      [0, 0.24],
    ],
    40,
  )

/** The bung of the barrel, out of which it leaks. */
const bung = (): Mesh =>
  lathe(
    [
      [0, 0],
      [0.016, 0],
      [0.018, 0.02],
      [0, 0.02],
    ],
    24,
  )

export const OIL_MESHES = [
  { id: 'glass-tank', name: 'Glass tank', make: tank },
  { id: 'barrel', name: 'Oil barrel', make: barrel },
  { id: 'bung', name: 'Bung', make: bung },
]

const weights = { Flowing: 1 }
const RADIUS = 0.016
const gravity = { id: 'gravity', kind: 'gravity', weights }
const walls = [
  { id: 'tank', kind: 'collide', name: 'Tank', weights, mesh: 'glass-tank' },
  { id: 'barrel', kind: 'collide', name: 'Barrel', weights, mesh: 'barrel' },
]

/** A barrel of lamp oil leaks at the bottom of a tank: it rises through the brine and gathers on top, among floats that bob. */
export const oilOnBrine: DemoShot = {
  title: 'Oil on brine',
  build: (asset) => ({
    frames: { first: 1, last: 240, rate: 24 },
    seed: 53,
    quality: { level: 'good', previewShare: 1 },
    meshes: [
      {
        ...mesh(asset, 'glass-tank', 'Tank'),
        look: { colour: '#dcece8', roughness: 0.04, glass: 0.9, opacity: 0.35 },
      },
      {
        ...mesh(asset, 'barrel', 'Barrel', { position: [0.06, 0.104, 0.02], rotation: [0, 25, 90] }),
        look: { colour: '#7c3b2a', roughness: 0.6, metalness: 0.2 },
      },
      {
        ...mesh(asset, 'bung', 'Bung', { position: [-0.05, 0.19, -0.03] }),
        look: { colour: '#c39a4c', roughness: 0.4, metalness: 0.6 },
      },
    ],
    populations: [
      {
        id: 'brine',
        name: 'Brine',
        phases: ['Flowing'],
        particle: { radius: RADIUS, density: 1150, lifespan: null },
        births: [
          {
            id: 'in-the-tank',
            kind: 'fill',
            mesh: 'glass-tank',
            holds: 'hollow',
            level: 0.66,
            into: 'Flowing',
            amount: { burst: 'all', at: 1 },
          },
        ],
        // none is in the barrel
        cues: [{ id: 'sealed', from: 'Flowing', to: 'dies', when: { kind: 'inside', mesh: 'barrel' } }],
        influences: [gravity, { id: 'liquid', kind: 'liquid', weights, viscosity: 0.002 }, ...walls],
        look: { draw: 'spheres', colour: { from: 'speed', range: [0, 0.5], ramp: { stops: [[0, '#24678a'], [1, '#7fc4c0']] } }, skin: { opacity: 0.45 } }, // prettier-ignore
      },
      {
        id: 'oil',
        name: 'Lamp oil',
        phases: ['Flowing'],
        particle: { radius: RADIUS, density: 800, lifespan: null },
        births: [
          {
            id: 'leak',
            kind: 'pour',
            mesh: 'bung',
            width: 0.06,
            direction: [0, 1, 0],
            into: 'Flowing',
            amount: { rate: { keys: [[1, 0, 'hold'], [16, 0], [24, 36], [150, 36], [170, 0]] } }, // prettier-ignore
          },
        ],
        influences: [gravity, { id: 'liquid', kind: 'liquid', weights, viscosity: 0.002 }, ...walls],
        look: { draw: 'spheres', colour: { from: 'speed', range: [0, 0.5], ramp: { stops: [[0, '#d08a1e'], [1, '#f0c060']] } }, skin: { opacity: 0.85 } }, // prettier-ignore
      },
      {
        id: 'floats',
        name: 'Cork floats',
        phases: ['Flowing'],
        particle: { radius: 0.02, density: 250, lifespan: null },
        births: [
          {
            id: 'dropped',
            kind: 'region',
            mesh: 'glass-tank',
            into: 'Flowing',
            size: [0.6, 0.06, 0.25],
            middle: [0, 0.42, 0],
            amount: { burst: 16, at: 1 },
          },
        ],
        influences: [
          gravity,
          { id: 'float', kind: 'float', weights },
          { id: 'touch', kind: 'selfCollision', weights },
          ...walls,
        ],
        look: { draw: 'spheres', colour: { from: 'speed', range: [0, 1], ramp: { stops: [[0, '#c4703f'], [1, '#d9a878']] } } }, // prettier-ignore
      },
    ],
    stage: {
      camera: { position: [0.75, 0.62, 1.15], target: [0, 0.2, 0], fieldOfView: 34 },
      light: { bearing: -35, height: 50, strength: 1.4 },
      backdrop: 'fog',
    },
  }),
}
