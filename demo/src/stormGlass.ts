import { turnedOver, type Mesh } from '@tangle/core'
import { box, lathe, moved, together } from './build.ts'
import { mesh, type DemoShot } from './shot.ts'

/** The profile of the glass from bottom to top, about its pivot at the origin; the hollow lies a wall of 6 mm within it. */
const PROFILE: [radius: number, height: number][] = [
  [0, -0.092],
  [0.036, -0.089],
  [0.066, -0.074],
  [0.084, -0.047],
  [0.09, -0.012],
  [0.084, 0.022],
  [0.066, 0.052],
  [0.046, 0.077],
  [0.036, 0.102],
  [0.03, 0.118],
  [0, 0.124],
]
const WALL = 0.006

/** A sealed weather glass, 22 cm high and hollow. */
const stormGlass = (): Mesh => {
  const hollow = PROFILE.map(([radius, height], n): [number, number] => [
    Math.max(0, radius - WALL),
    height + (n < PROFILE.length / 2 ? WALL : -WALL) * (radius < 0.07 ? 1 : 0),
  ])
  const { positions, triangles } = lathe(hollow, 64)
  return together(lathe(PROFILE, 64), { positions, triangles: turnedOver(triangles) })
}

/** A brass fork on a foot, in whose ring the glass swings. */
const gimbal = (): Mesh => {
  const arm = (side: number): Mesh =>
    together(
      moved(box(0.012, 0.25, 0.02), [side * 0.135, -0.075, 0]),
      moved(box(0.03, 0.008, 0.008), [side * 0.12, 0.04, 0]),
    )
  const foot = lathe(
    [
      [0, -0.22],
      [0.1, -0.22],
      [0.095, -0.208],
      [0.03, -0.2],
      [0.02, -0.19],
      [0, -0.19],
    ],
    48,
  )
  const ring = lathe(
    [
      [0.1, 0.034],
      [0.106, 0.034],
      [0.106, 0.046],
      [0.1, 0.046],
      [0.1, 0.034],
    ],
    64,
  )
  return together(arm(-1), arm(1), moved(box(0.282, 0.014, 0.02), [0, -0.193, 0]), foot, ring)
}

/** A small iron stove with its pipe. */
const stove = (): Mesh => {
  const body = lathe(
    [
      [0, 0],
      [0.085, 0],
      [0.09, 0.01],
      [0.09, 0.04],
      [0.1, 0.05],
      [0.105, 0.16],
      [0.09, 0.21],
      [0.075, 0.225],
      [0.08, 0.235],
      [0, 0.24],
    ],
    48,
  )
  const pipe = lathe(
    [
      [0, 0.235],
      [0.028, 0.235],
      [0.028, 0.5],
      [0, 0.5],
    ],
    32,
  )
  const door = moved(box(0.012, 0.07, 0.07), [0, 0.1, 0.1], [0, 90, 0])
  return together(body, pipe, door)
}

export const STORM_GLASS_MESHES = [
  { id: 'storm-glass', name: 'Storm glass', make: stormGlass },
  { id: 'gimbal', name: 'Gimbal', make: gimbal },
  { id: 'stove', name: 'Stove', make: stove },
]

/** °C of the stove, of brine that has become as light as it does, and of the bridge. */
const [STOVE, WARM, COOL] = [105, 75, 12]

/** A liquid in the glass, from one level to another, with what warmth does to its weight. */
const liquid = (
  id: string,
  name: string,
  [from, level]: [number, number],
  { density, viscosity, conductivity, capacity, hot }: Record<'density' | 'viscosity' | 'conductivity' | 'capacity' | 'hot', number>, // prettier-ignore
  look: Record<string, unknown>,
): Record<string, unknown> => {
  const weights = { Flowing: 1 }
  return {
    id,
    name,
    phases: ['Flowing'],
    particle: { radius: 0.005, density, lifespan: null },
    births: [
      {
        id: 'in-the-glass',
        kind: 'fill',
        mesh: 'storm-glass',
        holds: 'hollow',
        bottom: from,
        level,
        into: 'Flowing',
        amount: { burst: 'all', at: 1 },
      },
    ],
    influences: [
      { id: 'gravity', kind: 'gravity', weights },
      {
        id: 'liquid',
        kind: 'liquid',
        weights,
        viscosity,
        responses: [{ to: 'weight', from: 'temperature', curve: [[COOL, 1], [WARM, hot]] }], // prettier-ignore
      },
      { id: 'warmth', kind: 'warmth', weights, born: COOL, around: COOL, loss: 30, conductivity, capacity, pace: 200 }, // prettier-ignore
      { id: 'stove', kind: 'heat', name: 'Stove', weights, from: 'mesh', mesh: 'stove', reach: 0.15, rate: 2.5, temperature: STOVE }, // prettier-ignore
      { id: 'glass', kind: 'collide', name: 'Glass', weights, mesh: 'storm-glass' },
    ],
    look,
  }
}

/** A sealed glass swings on the ferry's bridge, half brine and half oil. Brine beside the stove becomes light and climbs, and sinks where it has cooled. */
export const stormGlassSwings: DemoShot = {
  title: 'The storm glass',
  build: (asset) => ({
    frames: { first: 1, last: 300, rate: 24 },
    seed: 29,
    quality: { level: 'good', previewShare: 1 },
    meshes: [
      {
        ...mesh(asset, 'storm-glass', 'Storm glass', {
          position: [0, 0.22, 0],
          rotation: [
            { keys: [[1, 0, 'smooth'], [26, 4, 'smooth'], [78, -4, 'smooth'], [104, 0]], repeat: 'loop' }, // prettier-ignore
            0,
            { keys: [[1, 0, 'smooth'], [20, 8, 'smooth'], [60, -8, 'smooth'], [80, 0]], repeat: 'loop' }, // prettier-ignore
          ],
        }),
        look: { colour: '#dcece8', roughness: 0.04, glass: 0.9, opacity: 0.4 },
      },
      {
        ...mesh(asset, 'gimbal', 'Gimbal', { position: [0, 0.22, 0] }),
        look: { colour: '#c39a4c', roughness: 0.35, metalness: 0.6 },
      },
      {
        ...mesh(asset, 'stove', 'Stove', { position: [-0.28, 0, -0.02] }),
        look: { colour: '#4a4644', roughness: 0.7, metalness: 0.3 },
      },
    ],
    populations: [
      liquid(
        'brine',
        'Brine',
        [0, 0.36],
        { density: 1150, viscosity: 0.002, conductivity: 0.6, capacity: 3600, hot: 0.6 },
        { draw: 'spheres', colour: { from: 'temperature', range: [COOL, WARM], ramp: { stops: [[0, '#1f6f93'], [0.5, '#4fb7a5'], [1, '#f5b84a']] } }, skin: { colour: 'look', opacity: 0.88 } }, // prettier-ignore
      ),
      liquid(
        'oil',
        'Lamp oil',
        [0.36, 0.66],
        { density: 800, viscosity: 0.002, conductivity: 0.15, capacity: 2000, hot: 0.95 },
        { draw: 'spheres', colour: { from: 'speed', range: [0, 1], ramp: { stops: [[0, '#c98f2e'], [1, '#e8c070']] } }, skin: { opacity: 0.38 } }, // prettier-ignore
      ),
    ],
    stage: {
      camera: { position: [0.3, 0.31, 0.66], target: [-0.03, 0.19, 0], fieldOfView: 32 },
      light: { bearing: -40, height: 46, strength: 1.5 },
      backdrop: 'dusk',
    },
  }),
}
