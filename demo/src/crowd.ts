import { mesh, type DemoShot } from './shot.ts'

/** Two crowds cross a quay against each other, to the ferry and from it, and make way. */
export const queue: DemoShot = {
  title: 'Ferry queue',
  build: (asset) => {
    const sides = [
      { id: 'boarding', name: 'Boarding', from: 'west', to: 'east' },
      { id: 'leaving', name: 'Leaving', from: 'east', to: 'west' },
    ]
    const sheet = (id: string, name: string, x: number) => ({
      ...mesh(asset, 'sky', name, { position: [x, 0.24, -0.6], scale: [0.9, 1, 1.7] }),
      id,
      visible: false,
    })
    return {
      frames: { first: 1, last: 840, rate: 24 },
      seed: 8,
      quality: { substeps: 2, previewShare: 1 },
      meshes: [
        mesh(asset, 'quay', 'Quay'),
        sheet('west', 'West end', -17),
        sheet('east', 'East end', 17),
        mesh(asset, 'lighthouse', 'Lighthouse', { position: [0, 0, -2] }),
      ],
      populations: [
        {
          id: 'people',
          name: 'People',
          phases: sides.map(({ name }) => name),
          particle: { radius: { mean: 0.24, spread: 0.12 }, density: 985, lifespan: null },
          births: sides.map(({ id, name, from }) => ({
            id,
            kind: 'surface',
            mesh: from,
            into: name,
            amount: { burst: 170, at: 1 },
            scatter: 'even',
          })),
          goals: sides.map(({ id, to }) => ({
            id: `${id}-end`,
            name: to === 'east' ? 'East end' : 'West end',
            kind: 'surface',
            mesh: to,
            pairing: 'order',
            direction: [0, 0, 1],
            arrived: 0.8,
          })),
          influences: [
            ...sides.map(({ id, name }) => ({
              id: `walk-${id}`,
              kind: 'arrive',
              name: `Walk: ${name.toLowerCase()}`,
              weights: { [name]: 1 },
              goal: `${id}-end`,
              speed: 1.9,
              slowing: 2,
              responses: [
                {
                  to: 'speed',
                  from: 'random',
                  curve: [
                    [0, 0.85],
                    [1, 1.15],
                  ],
                },
              ],
            })),
            {
              id: 'stray',
              kind: 'wander',
              name: 'Stray a little',
              weights: { Boarding: 1, Leaving: 1 },
              strength: 0.5,
              turns: 0.4,
              moves: 'level',
            },
            {
              id: 'way',
              kind: 'avoid',
              name: 'Make way',
              weights: { Boarding: 1, Leaving: 1 },
              mesh: 'lighthouse',
              reach: 5,
              moves: 'level',
            },
            ...sides.map(({ name }, i) => ({
              id: `coat-${i}`,
              kind: 'colour',
              name: `Coats: ${name.toLowerCase()}`,
              weights: { [name]: 1 },
              ramp: {
                stops: [
                  [0, i ? '#d9822b' : '#2f6f8f'],
                  [1, i ? '#f2c078' : '#8fc7d9'],
                ],
              },
              responses: [
                {
                  to: 'at',
                  from: 'random',
                  curve: [
                    [0, 0],
                    [1, 1],
                  ],
                },
              ],
            })),
          ],
          look: { draw: 'spheres', colour: { from: 'own', range: [0, 1], ramp: 'snow' } },
        },
      ],
      stage: {
        camera: { position: [0, 24, 27], target: [0, 0, 0.5], fieldOfView: 40 },
        light: { bearing: 40, height: 50, strength: 1.1 },
        backdrop: 'dusk',
      },
    }
  },
}
