import type { Mesh, Vector } from '@tangle/core'
import { lathe, loft, moved, together } from './build.ts'
import { mesh, type DemoShot } from './shot.ts'

/** A round-bellied kettle for tar, 25 cm high. */
const kettle = (): Mesh =>
  lathe(
    [
      [0, 0],
      [0.1, 0.005],
      [0.15, 0.06],
      [0.163, 0.13],
      [0.145, 0.21],
      [0.155, 0.25],
      [0.142, 0.25],
      [0.131, 0.21],
      [0.148, 0.13],
      [0.136, 0.068],
      [0.09, 0.02],
      [0, 0.016],
    ],
    72,
  )

/** Ballast stones, six of them, up to 13 cm. */
const stones = (): Mesh =>
  together(
    ...(
      [
        [0.02, 0.14, 0.095, 0.11],
        [-0.15, 0.26, 0.075, 0.085],
        [0.21, 0.27, 0.08, 0.075],
        [0.01, 0.38, 0.1, 0.09],
        [-0.19, 0.47, 0.07, 0.07],
        [0.17, 0.52, 0.085, 0.08],
      ] as const
    ).map(([x, z, wide, high], n) => moved(stone(wide, high, n), [x, 0, z])),
  )

/** A stone that lies flat, half its width and its height: a ball that bulges here and there. */
function stone(wide: number, high: number, nth: number): Mesh {
  const [around, rows] = [28, 12]
  return loft(
    Array.from({ length: rows + 1 }, (_, r) => {
      const tilt = Math.PI * (0.02 + (0.96 * r) / rows)
      return Array.from({ length: around }, (_, s): Vector => {
        const turn = (2 * Math.PI * s) / around
        const bulge =
          1 + 0.1 * Math.sin(2 * turn + nth) * Math.sin(tilt) + 0.06 * Math.cos(3 * turn - 2 * nth)
        const out = wide * bulge * Math.sin(tilt) ** 0.7
        return [out * Math.sin(turn), (high * (1 - Math.cos(tilt))) / 2, out * Math.cos(turn) * 0.85]
      })
    }),
  )
}

export const TAR_MESHES = [
  { id: 'kettle', name: 'Kettle', make: kettle },
  { id: 'stones', name: 'Ballast stones', make: stones },
]

const flowing = { Flowing: 1 }
/** Hot tar is poured from a kettle over ballast stones: it runs, cools from outside, thickens and sets. */
export const tarKettle: DemoShot = {
  title: 'The tar kettle',
  build: (asset) => ({
    frames: { first: 1, last: 240, rate: 24 },
    seed: 17,
    quality: { level: 'good', previewShare: 0.4 },
    meshes: [
      mesh(asset, 'kettle', 'Kettle', {
        position: [0, 0.42, -0.2],
        rotation: [
          {
            keys: [
              [12, 0, 'smooth'],
              [90, 112],
            ],
          },
          0,
          0,
        ],
      }),
      mesh(asset, 'stones', 'Stones', {}),
    ],
    populations: [
      {
        id: 'tar',
        name: 'Tar',
        phases: ['Flowing'],
        particle: { radius: 0.005, density: 1150, lifespan: null },
        births: [
          {
            id: 'in-the-kettle',
            kind: 'fill',
            mesh: 'kettle',
            holds: 'hollow',
            level: 0.7,
            into: 'Flowing',
            amount: { burst: 'all', at: 1 },
          },
        ],
        influences: [
          { id: 'gravity', kind: 'gravity', weights: flowing },
          {
            id: 'liquid',
            kind: 'liquid',
            weights: flowing,
            viscosity: 2000,
            // 1 Pa·s as it is poured, some twenty at 80 °C
            responses: [
              {
                to: 'viscosity',
                from: 'temperature',
                curve: [
                  [20, 1],
                  [50, 0.2],
                  [80, 0.01],
                  [150, 0.0005],
                ],
              },
            ],
          },
          {
            id: 'warmth',
            kind: 'warmth',
            weights: flowing,
            born: 150,
            around: 4,
            loss: 40,
            conductivity: 0.2,
            capacity: 1700,
            pace: 150,
          },
          // stones are cold
          {
            id: 'cold-stones',
            kind: 'heat',
            name: 'Cold stones',
            weights: flowing,
            from: 'mesh',
            mesh: 'stones',
            reach: 0.012,
            rate: 0.6,
            temperature: 4,
          },
          { id: 'kettle', kind: 'collide', name: 'Kettle', weights: flowing, mesh: 'kettle' },
          { id: 'stones', kind: 'collide', name: 'Stones', weights: flowing, mesh: 'stones' },
          { id: 'quay', kind: 'floor', name: 'Quay', weights: flowing },
        ],
        look: {
          draw: 'spheres',
          colour: {
            from: 'temperature',
            range: [10, 150],
            ramp: {
              stops: [
                [0, '#12100f'],
                [0.5, '#2a1c15'],
                [1, '#8a5222'],
              ],
            },
          },
          skin: { colour: 'look', opacity: 1 },
        },
      },
    ],
    stage: {
      camera: { position: [0.95, 0.75, 1.15], target: [0, 0.2, 0.15], fieldOfView: 36 },
      light: { bearing: -35, height: 48, strength: 1.15 },
      backdrop: 'fog',
    },
  }),
}
