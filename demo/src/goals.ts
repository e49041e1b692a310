import { mesh, type DemoShot } from './shot.ts'

/** Grains of paper leave a boat in patches, are blown about, and settle as a heron. */
export const morph: DemoShot = {
  title: 'Paper boat to heron',
  build: (asset) => ({
    frames: { first: 1, last: 216, rate: 24 },
    seed: 12,
    quality: { previewShare: 0.1 },
    meshes: [
      {
        ...mesh(asset, 'paper-boat', 'Paper boat', {
          position: [-0.95, 0.02, 0],
          rotation: [0, 18, 0],
          scale: [2.4, 2.4, 2.4],
        }),
        visible: false,
      },
      {
        ...mesh(asset, 'paper-heron', 'Paper heron', {
          position: [0.75, 0, 0],
          rotation: [0, 28, 0],
          scale: [2.3, 2.3, 2.3],
        }),
        visible: false,
      },
    ],
    masks: [
      {
        id: 'release',
        name: 'Release',
        kind: 'noise',
        scale: 0.32,
        octaves: 3,
        follow: 'paper-boat',
        level: {
          keys: [
            [14, 1, 'smooth'],
            [104, -0.2],
          ],
        },
      },
    ],
    populations: [
      {
        id: 'paper',
        name: 'Paper',
        phases: ['Folded', 'Going'],
        particle: { radius: { mean: 0.003, spread: 0.4 }, density: 800, lifespan: null },
        births: [
          {
            id: 'boat',
            kind: 'surface',
            mesh: 'paper-boat',
            into: 'Folded',
            amount: { burst: 200000, at: 1 },
          },
        ],
        cues: [
          { id: 'release', from: 'Folded', to: 'Going', when: { kind: 'mask', mask: 'release', above: 0.5 } },
        ],
        goals: [
          {
            id: 'heron',
            name: 'Heron',
            kind: 'surface',
            mesh: 'paper-heron',
            pairing: 'least',
            arrived: 0.01,
          },
        ],
        influences: [
          { id: 'ride', kind: 'ride', weights: { Folded: 1 } },
          {
            id: 'gust',
            kind: 'turbulence',
            name: 'Stray on the way',
            weights: { Going: 1 },
            strength: 4.5,
            scale: 0.5,
            octaves: 3,
            change: 0.6,
            responses: [
              {
                to: 'strength',
                from: 'goal',
                goal: 'heron',
                curve: [
                  [0.05, 0, 'smooth'],
                  [0.7, 1],
                ],
              },
            ],
          },
          { id: 'arrive', kind: 'arrive', weights: { Going: 1 }, goal: 'heron', speed: 1.1, slowing: 0.55 },
          {
            id: 'settle',
            kind: 'settle',
            weights: { Going: 1 },
            goal: 'heron',
            within: 0.14,
            halfLife: 0.16,
          },
          {
            id: 'ink',
            kind: 'colour',
            name: 'Paper and sky',
            weights: { Folded: 1, Going: 1 },
            ramp: {
              stops: [
                [0, '#cfe0ec'],
                [0.35, '#6fa9d6'],
                [0.8, '#e8b07a'],
                [1, '#f6ead2'],
              ],
            },
            responses: [
              {
                to: 'at',
                from: 'goal',
                goal: 'heron',
                curve: [
                  [0, 0],
                  [1.7, 1],
                ],
              },
            ],
          },
        ],
        look: { draw: 'spheres', colour: { from: 'own', range: [0, 1], ramp: 'snow' } },
      },
    ],
    stage: {
      camera: { position: [0.15, 0.85, 3.3], target: [-0.02, 0.5, 0], fieldOfView: 40 },
      light: { bearing: 40, height: 46, strength: 1.1 },
      backdrop: 'dusk',
    },
  }),
}

/** From one value to another between two frames. */
const crossing = (from: number, to: number, first: number, last: number) => ({
  keys: [
    [first, from, 'smooth'],
    [last, to],
  ],
})

/** A block of moths flies to a lantern and sits on it, then leaves for a float of glass that ripples. */
export const moths: DemoShot = {
  title: 'Moths at the lantern',
  build: (asset) => {
    const flights = [
      { goal: 'lantern', strength: crossing(1, 0, 108, 132) },
      { goal: 'float', strength: crossing(0, 1, 108, 132) },
    ]
    return {
      frames: { first: 1, last: 264, rate: 24 },
      seed: 44,
      quality: { substeps: 1, previewShare: 0.3 },
      meshes: [
        mesh(asset, 'lantern', 'Lantern', { position: [-0.42, 0.1, 0], scale: [2, 2, 2] }),
        {
          ...mesh(asset, 'net-float', 'Net float', { position: [0.72, 0.25, -0.1], scale: [1.9, 1.9, 1.9] }),
          deform: [
            {
              id: 'ripple',
              kind: 'ripple',
              amount: {
                keys: [
                  [120, 0, 'smooth'],
                  [168, 0.012, 'smooth'],
                  [216, 0.012, 'smooth'],
                  [252, 0],
                ],
              },
              wavelength: 0.11,
              speed: 0.12,
            },
          ],
        },
        {
          ...mesh(asset, 'crate', 'Block', { position: [-1.5, 0.15, -0.3], scale: [0.75, 0.9, 0.75] }),
          visible: false,
        },
      ],
      populations: [
        {
          id: 'moths',
          name: 'Moths',
          phases: ['Flying'],
          particle: { radius: { mean: 0.0035, spread: 0.3 }, density: 300, lifespan: null },
          births: [
            {
              id: 'block',
              kind: 'volume',
              mesh: 'crate',
              into: 'Flying',
              amount: { burst: 20000, at: 1 },
              fill: 'grid',
              spacing: 0.0285,
            },
          ],
          goals: [
            {
              id: 'lantern',
              name: 'Lantern',
              kind: 'surface',
              mesh: 'lantern',
              pairing: 'least',
              height: 0.004,
            },
            {
              id: 'float',
              name: 'Float',
              kind: 'surface',
              mesh: 'net-float',
              pairing: 'least',
              height: 0.004,
            },
          ],
          influences: [
            {
              id: 'flock',
              kind: 'flock',
              weights: { Flying: 1 },
              separation: 1.5,
              separationRadius: 0.007,
              alignment: 0.6,
              cohesion: 0.4,
              radius: 0.04,
              neighbours: 6,
            },
            {
              id: 'flutter',
              kind: 'wander',
              name: 'Flutter',
              weights: { Flying: 1 },
              strength: 5,
              turns: 3.5,
            },
            ...flights.map(({ goal, strength }) => ({
              id: `to-${goal}`,
              kind: 'arrive',
              name: `To the ${goal}`,
              weights: { Flying: 1 },
              goal,
              strength,
              speed: 0.9,
              slowing: 0.25,
              responses: [
                {
                  to: 'speed',
                  from: 'random',
                  curve: [
                    [0, 0.7],
                    [1, 1.4],
                  ],
                },
              ],
            })),
            ...flights.map(({ goal, strength }) => ({
              id: `on-${goal}`,
              kind: 'settle',
              name: `On the ${goal}`,
              weights: { Flying: 1 },
              goal,
              strength,
              within: 0.08,
              halfLife: 0.1,
            })),
            { id: 'limits', kind: 'limits', weights: { Flying: 1 }, most: 1.6 },
          ],
          look: { draw: 'spheres', colour: { from: 'speed', range: [0, 1.2], ramp: 'brass' } },
        },
      ],
      stage: {
        camera: { position: [-0.2, 0.85, 3.1], target: [-0.2, 0.52, 0], fieldOfView: 40 },
        light: { bearing: -35, height: 42, strength: 1 },
        backdrop: 'night',
      },
    }
  },
}
